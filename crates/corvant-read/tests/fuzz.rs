//! Fuzz targets: one for each syntax, and one for all that comes after them.

use corvant_core::audit::{Options, Report, audit};
use corvant_core::facts::Trouble;
use corvant_core::name::Interner;
use corvant_core::source::Span;
use corvant_core::wiring::{Policy, Wiring, link};
use corvant_read::syntax::{ManifestSyntax, NodeKind, SyntaxError, Tree, ini, lines, properties, xml, yaml};
use corvant_read::{manifest, workspace};
use corvant_testing::corpus::Made;
use corvant_testing::fuzz::fuzz;
use corvant_testing::tangle::tangle;
use rstest::rstest;
use std::fs;

/// The bad files of a syntax, and a good one.
fn seeds(syntax: ManifestSyntax) -> Vec<Vec<u8>> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../corvant/tests/bad_files");
    let paths = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let of_syntax = paths.filter(|path| ManifestSyntax::of_manifest(path.to_str().unwrap()) == Some(syntax));
    let mut of_syntax: Vec<_> = of_syntax.collect();
    of_syntax.sort();
    let mut seeds: Vec<Vec<u8>> = of_syntax.iter().map(|path| fs::read(path).unwrap()).collect();
    if syntax == ManifestSyntax::Yaml {
        let good = include_bytes!("../../corvant/demo/timetable/timetable.wiring.yaml");
        seeds.push(good.to_vec());
    }
    assert!(seeds.len() > 20);
    seeds
}

fn assert_fits(text: &str, span: Span) {
    let (start, end) = (span.start as usize, span.end as usize);
    assert!(
        start <= end && text.is_char_boundary(start) && text.is_char_boundary(end),
        "{span:?} in {text:?}"
    );
}

/// Everything in a tree has its place in the text, and an error has one too.
fn check_tree(text: &str, parsed: &Result<Tree<'_>, SyntaxError>) {
    match parsed {
        Err(error) => {
            assert_fits(text, error.span);
            assert!(!error.message.is_empty());
        }
        Ok(tree) => {
            let mut waiting: Vec<_> = tree.root().into_iter().collect();
            while let Some(node) = waiting.pop() {
                assert_fits(text, tree.span(node));
                match tree.kind(node) {
                    NodeKind::List => waiting.extend(tree.children(node)),
                    NodeKind::Map => waiting.extend(tree.fields(node).flat_map(|(key, value)| [key, value])),
                    _ => drop(tree.text(node).to_owned()),
                }
            }
        }
    }
}

/// A whole manifest can be read, and what is in it has its places.
fn check_manifest(path: &str, bytes: &[u8]) {
    let interner = Interner::default();
    let read = manifest::from_bytes(path.to_owned(), bytes.to_vec(), &interner);
    let text = &read.source.text;
    read.facts.services.iter().for_each(|service| assert_fits(text, service.id.span));
    read.facts.parts.needs.iter().for_each(|need| assert_fits(text, need.span));
    read.facts.parts.named.iter().for_each(|named| assert_fits(text, named.span));
    read.facts.troubles.iter().for_each(|trouble| assert_fits(text, trouble.at.0));
}

/// What is read without the library is what the library reads, node for node and place for place.
fn check_plain(text: &str, parsed: &Result<Tree<'_>, SyntaxError>) {
    match (parsed, yaml::parse_with_library(text)) {
        (Ok(tree), Ok(other)) => assert!(tree.is_as(&other), "{text:?}\n{tree:?}\n{other:?}"),
        (Err(error), Err(other)) => assert_eq!(error, &other),
        (_, other) => panic!("{text:?}\n{parsed:?}\n{other:?}"),
    }
}

#[test]
fn yaml() {
    let made = Made { services: 20, faults: 3, stages: 2, seed: 1 }.files();
    let mut seeds = seeds(ManifestSyntax::Yaml);
    seeds.extend(made.map(|file| file.text.into_bytes()));
    seeds.extend((0..20).flat_map(tangle).map(|(_, text)| text.into_bytes()));
    fuzz("yaml", &seeds, 8_000, |bytes| {
        if let Ok(text) = std::str::from_utf8(bytes) {
            let parsed = ManifestSyntax::Yaml.parse(text);
            check_tree(text, &parsed);
            check_plain(text, &parsed);
            let manner = yaml::Manner { local_tags: true, documents: true };
            check_tree(text, &yaml::parse_as(text, manner).map(Tree::with_repeated_as_lists));
        }
        check_manifest("a.wiring.yaml", bytes);
    });
}

#[test]
fn json_is_what_another_reader_takes_too() {
    fuzz("json", &seeds(ManifestSyntax::Json), 12_000, |bytes| {
        if let Ok(text) = std::str::from_utf8(bytes) {
            let parsed = ManifestSyntax::Json.parse(text);
            check_tree(text, &parsed);
            let is_empty = text.trim_matches([' ', '\n', '\r', '\t']).is_empty();
            let other = serde_json::from_str::<serde_json::Value>(text);
            // The other reader has a limit to its numbers, and a lower one to its depth.
            let is_limit = other.as_ref().is_err_and(|error| {
                let message = error.to_string();
                message.contains("out of range") || message.contains("recursion limit")
            });
            assert!(
                is_empty || is_limit || parsed.is_ok() == other.is_ok(),
                "{text:?}: {parsed:?} {other:?}"
            );
        }
        check_manifest("a.wiring.json", bytes);
    });
}

#[test]
fn toml_is_at_least_what_another_reader_takes() {
    fuzz("toml", &seeds(ManifestSyntax::Toml), 8_000, |bytes| {
        if let Ok(text) = std::str::from_utf8(bytes) {
            let parsed = ManifestSyntax::Toml.parse(text);
            check_tree(text, &parsed);
            // What is defined twice is an error there, and a finding here.
            let other = text.parse::<toml_edit::DocumentMut>();
            assert!(parsed.is_ok() || other.is_err(), "{text:?}: {parsed:?}");
        }
        check_manifest("a.wiring.toml", bytes);
    });
}

fn linked(bytes: &[u8]) -> Wiring {
    let interner = Interner::default();
    // Two files of one text: everything in it meets itself as well.
    let paths = ["a.wiring.yaml", "b.wiring.yaml"];
    let half = bytes.len() / 2;
    let texts = [bytes.to_vec(), bytes[half..].to_vec()];
    let manifests = paths.iter().zip(texts);
    let manifests = manifests.map(|(path, text)| manifest::from_bytes((*path).to_owned(), text, &interner));
    link(manifests.collect(), interner.freeze().into(), Policy::default())
}

fn keys(report: &Report) -> Vec<(&'static str, &str, usize)> {
    let key = |finding: &'_ corvant_core::finding::Finding| {
        finding.holds.as_ref().map_or(usize::MAX, |holds| holds.stages.len())
    };
    report
        .findings
        .iter()
        .map(|finding| (finding.rule.name, finding.subject.as_str(), key(finding)))
        .collect()
}

#[test]
fn whatever_is_read_can_be_linked_and_audited() {
    let seeds: Vec<Vec<u8>> = (0..60).flat_map(tangle).map(|(_, text)| text.into_bytes()).collect();
    fuzz("audit", &seeds, 3_000, |bytes| {
        let wiring = linked(bytes);
        let report = audit(&wiring, &Options::default());
        for finding in &report.findings {
            assert!(!finding.message.is_empty());
            for place in &finding.places {
                assert_fits(&wiring.sources[place.source.index()].text, place.span);
            }
        }
        let afresh = audit(&wiring, &Options { afresh: true, ..Options::default() });
        assert_eq!(keys(&report), keys(&afresh), "{}", String::from_utf8_lossy(bytes));
    });
}

/// The files of an example: paths and texts, the workspace file first.
fn example(name: &str) -> Vec<(String, String)> {
    let folder = format!("{}/../../examples/readers/{name}", env!("CARGO_MANIFEST_DIR"));
    let mut files: Vec<(String, String)> = ignore::Walk::new(&folder)
        .map(Result::unwrap)
        .filter(|file| file.path().is_file() && file.file_name() != "findings.txt")
        .map(|file| {
            let path = file.path().strip_prefix(&folder).unwrap().to_str().unwrap().to_owned();
            (path, fs::read_to_string(file.path()).unwrap())
        })
        .collect();
    files.sort_by_key(|(path, _)| (path != "corvant.toml", path.clone()));
    files
}

#[test]
fn syntaxes_of_houses() {
    let names = ["parts-xml", "sections-ini", "records"];
    let mut seeds: Vec<Vec<u8>> = names
        .iter()
        .flat_map(|name| example(name).into_iter().skip(1))
        .map(|(_, text)| text.into_bytes())
        .collect();
    seeds.push(b"<!DOCTYPE a [<!ENTITY e 'x'>]><a b='&#x41;'><![CDATA[x]]>&amp;<!-- c --></a>".to_vec());
    seeds.push(b"# c\na\\ b : c\\\n  d\ne=\\u017E\\uD83D\\uDE8A\n".to_vec());
    fuzz("house-syntaxes", &seeds, 12_000, |bytes| {
        let Ok(text) = std::str::from_utf8(bytes) else { return };
        check_tree(text, &xml::parse(text));
        check_tree(text, &ini::parse(text));
        check_tree(text, &ini::parse_flat(text));
        check_tree(text, &properties::parse(text));
        check_tree(text, &lines::parse_records(text, Some("#")));
        check_tree(text, &Ok(lines::parse(text, Some("#"))));
    });
}

/// Links and audits a workspace in memory, if its workspace file can be used.
fn audited(files: &[(String, String)]) {
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let Ok(read) = workspace::from_texts(texts) else { return };
    let wiring = link(read.manifests, read.names, read.policy);
    let report = audit(&wiring, &Options::default());
    // What fails inside the program is a finding of the file; here it is a failure.
    assert!(report.findings.iter().all(|finding| !finding.message.contains("which is its own fault")));
    for place in report.findings.iter().flat_map(|finding| &finding.places) {
        assert_fits(&wiring.sources[place.source.index()].text, place.span);
    }
}

#[test]
fn whatever_readers_read_can_be_audited() {
    let files = example("mixed");
    let seeds: Vec<Vec<u8>> = files.iter().map(|(_, text)| text.clone().into_bytes()).collect();
    fuzz("house-workspaces", &seeds, 700, |bytes| {
        let mut files = files.clone();
        // Mostly it takes the place of the file that it was made from, sometimes that of another.
        let near =
            files.iter().position(|(_, text)| text.as_bytes().starts_with(&bytes[..bytes.len().min(20)]));
        let at = near.unwrap_or(bytes.len() % files.len());
        files[at].1 = String::from_utf8_lossy(bytes).into_owned();
        audited(&files);
    });
}

/// Code is skimmed to its end or to where it is in doubt, and what it declares stands where it is said to.
#[rstest]
#[case::java("Gate.java", b"package velmora.depot; // x\n@Mark({\"a\"}) class Gate<T> { String s = \"\"\" \" \"\"\"; char c = '\\''; record R(int n) {} /* } */ }")]
#[case::kotlin("Gate.kt", b"package velmora.depot\nclass Gate(val f: () -> Unit = { }) { val s = \"${if (x) \"}\" else \"{\"} \" ; object Lock } /* /* */ */ typealias T = Gate")]
#[case::c_sharp("Gate.cs", b"#if X\nnamespace Velmora.Depot {\n#else\nnamespace Velmora {\n#endif\nclass Gate { string s = $@\"{a[\"b\"]} \"\" {{\" + \"\"\" \" \"\"\"; } delegate int F<T>(T t); }")]
#[case::php("Gate.php", b"<p><?php namespace Velmora\\Depot; #[Mark]\nclass Gate { function a() { return <<<END\n {$b[\"c\"]}\n  END . \"{$d[\"e\"]}\"; } } ?> <?= 'f' ?>")]
#[case::type_script("gate.ts", b"import { Yard as Y } from './yard';\n@Mark({ a: 'b' }) export class Gate<T> extends kit.Door<T> { static K = 'x'\n p = /a[/]b/g; constructor(private y?: Y | null, ...z: T[]) { super(`${y}`) } } export { Gate as G }; namespace N { interface I { (x): void } }")]
#[case::python("gate.py", b"from .yard import (Yard as Y,\n z)\n@part('x', key=K.A)\nclass Gate(Door[Y]):\n    K = 'a' # x\n    def __init__(self, y: 'Y' | None = f\"{a}\", *, z: list[Y]):\n        \"\"\"no\"\"\"\n        class No: pass\n")]
#[case::class_file("Gate.class", include_bytes!("classes/Gate.class"))]
fn code(#[case] path: &str, #[case] seed: &[u8]) {
    let settings = "policy.wire = 'constructor'\n[[reader]]\nname = 'all'\n\
        files = ['*.java', '*.kt', '*.cs', '*.php', '*.ts', '*.py']\nsyntax = 'types'\nmodule = 'a'\n\
        [[reader.take]]\nwhat = 'service'\neach = '$.types[*]'\nid = '$.name'\ntype = '$.name'\n\
        offers = 'super-types'\n[[types]]\nfiles = ['**']\n";
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("corvant.toml"), settings).unwrap();
    fs::write(folder.path().join("a.wiring.yaml"), "corvant: 1\nmodule: a\nservices: { x: {} }\n").unwrap();
    fuzz(path, &[seed.to_vec()], 1_500, |bytes| {
        // Some are no text.
        fs::write(folder.path().join(path), bytes).unwrap();
        let read = workspace::read(folder.path()).unwrap();
        let names: Vec<&str> = read.manifests.iter().map(|manifest| manifest.source.path.as_str()).collect();
        assert!(names.contains(&path), "{names:?}");
        for manifest in &read.manifests {
            for declared in &manifest.facts.declared_types {
                assert_fits(&manifest.source.text, declared.name.span);
            }
            for callable in &manifest.facts.parts.callables {
                assert_fits(&manifest.source.text, callable.name.span);
            }
            let told = |trouble: &Trouble| trouble.message.contains("the program failed");
            assert!(!manifest.facts.troubles.iter().any(told), "{:?}", manifest.facts.troubles);
        }
        assert!(read.blind_spots.iter().all(|spot| !spot.message.contains("the program failed")));
        let (wiring, _) = read.link();
        audit(&wiring, &Options::default());
    });
}
