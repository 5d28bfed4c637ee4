//! Jars and wheels on disk: real-shaped small ones, broken ones, and such as are made to explode.

mod classes;

use classes::{CLASSES, archive};
use corvant_core::audit::{Options, Report, audit};
use corvant_core::finding::{BlindSpotKind, Finding, Severity};
use corvant_core::wiring::Wiring;
use corvant_read::workspace;
use corvant_testing::fuzz::fuzz;
use rstest::rstest;
use std::fs;
use std::path::Path;

fn look(root: &Path) -> (Wiring, Report) {
    let workspace = workspace::read(root).unwrap();
    let (wiring, blind_spots) = workspace.link();
    let mut report = audit(&wiring, &Options::default());
    report.blind_spots.extend(blind_spots);
    (wiring, report)
}

/// Rule, subject and file of each finding in a folder of these archives.
fn findings(archives: &[(&str, &[u8])]) -> Vec<String> {
    let folder = tempfile::tempdir().unwrap();
    for (name, bytes) in archives {
        fs::write(folder.path().join(name), bytes).unwrap();
    }
    let (wiring, report) = look(folder.path());
    let place = |finding: &corvant_core::finding::Finding| wiring.path(finding.places[0].source).to_owned();
    let lines =
        report.findings.iter().map(|found| format!("{} {} {}", found.rule.name, found.subject, place(found)));
    lines.collect()
}

/// A class file that describes a module: what it requires, with flags; contracts with their providers; what it uses.
fn descriptor(module: &str, requires: &[(&str, u16)], provides: &[(&str, &str)], uses: &[&str]) -> Vec<u8> {
    let mut pool: Vec<Vec<u8>> = Vec::new();
    let text = |pool: &mut Vec<Vec<u8>>, text: &str| {
        pool.push([&[1], &(text.len() as u16).to_be_bytes()[..], text.as_bytes()].concat());
        pool.len() as u16
    };
    let named = |pool: &mut Vec<Vec<u8>>, tag: u8, name: &str| {
        let at = text(pool, name);
        pool.push([&[tag], &at.to_be_bytes()[..]].concat());
        pool.len() as u16
    };
    let this = named(&mut pool, 7, "module-info");
    let attribute = text(&mut pool, "Module");
    // Name, flags, version; what is required; nothing exported or opened; uses; contracts, each with one class.
    let mut body = vec![named(&mut pool, 19, module), 0, 0, requires.len() as u16];
    body.extend(requires.iter().flat_map(|&(name, flags)| [named(&mut pool, 19, name), flags, 0]));
    body.extend([0, 0, uses.len() as u16]);
    body.extend(uses.iter().map(|used| named(&mut pool, 7, used)));
    body.push(provides.len() as u16);
    for (contract, provider) in provides {
        body.extend([named(&mut pool, 7, contract), 1, named(&mut pool, 7, provider)]);
    }
    let body: Vec<u8> = body.into_iter().flat_map(u16::to_be_bytes).collect();
    let mut class = vec![0xca, 0xfe, 0xba, 0xbe, 0, 0, 0, 61];
    class.extend((pool.len() as u16 + 1).to_be_bytes());
    class.extend(pool.concat());
    for number in [0x8000, this, 0, 0, 0, 0, 1, attribute] {
        class.extend(number.to_be_bytes());
    }
    class.extend((body.len() as u32).to_be_bytes());
    class.extend(body);
    class
}

const ANNOUNCER: &str = "META-INF/services/velmora.Announcer";

#[test]
fn providers_are_among_the_classes_of_some_jar() {
    let voice = archive(&[
        (ANNOUNCER, b"velmora.Cabin\nvelmora.Street\nvelmora.Sreet\njava.util.Voice\n"),
        ("META-INF/services/velmora/deep", b"x"),
        ("velmora/Cabin.class", b""),
    ]);
    let other = archive(&[("META-INF/versions/21/velmora/Street.class", b"")]);
    let found = findings(&[("voice.jar", &voice), ("other.jar", &other)]);
    let of = |rule: &str| format!("{rule} voice.jar!/{ANNOUNCER}");
    assert_eq!(found, [of("missing-type velmora.Sreet"), of("missing-type velmora.Street")]);
}

#[test]
fn a_class_that_another_jar_has_is_a_note_with_both() {
    let folder = tempfile::tempdir().unwrap();
    let voice = archive(&[(ANNOUNCER, b"velmora.Street\n"), ("velmora/Cabin.class", b"")]);
    fs::write(folder.path().join("voice.jar"), voice).unwrap();
    fs::write(folder.path().join("other.jar"), archive(&[("velmora/Street.class", b"")])).unwrap();
    let (wiring, report) = look(folder.path());
    let [found] = report.findings.as_slice() else { panic!("{:?}", report.findings) };
    assert_eq!(found.severity, Severity::Note);
    assert_eq!(found.message, "velmora.Street is not where it is named; only other.jar has it");
    let places: Vec<&str> = found.places.iter().map(|place| wiring.path(place.source)).collect();
    assert_eq!(places, ["voice.jar!/META-INF/services/velmora.Announcer", "other.jar"]);
}

#[rstest]
#[case::no_jar_has_the_package(&[], &[])]
#[case::a_jar_has_it(&["javax/velmora/Bell.class"], &["missing-type javax.velmora.Voice"])]
fn the_platform_may_have_what_no_jar_has_the_package_of(#[case] other: &[&str], #[case] expected: &[&str]) {
    let mut files: Vec<(&str, &[u8])> = vec![(ANNOUNCER, b"javax.velmora.Voice\n")];
    files.extend(other.iter().map(|path| (*path, &b""[..])));
    let found = findings(&[("voice.jar", &archive(&files))]);
    let expected: Vec<String> =
        expected.iter().map(|found| format!("{found} voice.jar!/{ANNOUNCER}")).collect();
    assert_eq!(found, expected);
}

#[rstest]
#[case::of_what_is_required_and_absent("velmora_voice.cabin:Cabin", "velmora-voice", &["note velmora_voice.cabin"])]
#[case::of_its_own("velmora_cli.cabin:Cabin", "velmora-voice", &["error velmora_cli.cabin"])]
#[case::of_what_is_required_and_there("velmora_voice.cabin:Cabin", "velmora-tones", &["error velmora_voice.cabin"])]
fn what_a_wheel_requires_may_bring_its_modules(
    #[case] named: &str,
    #[case] required: &str,
    #[case] expected: &[&str],
) {
    let entries = format!("[velmora.voices]\ncabin = {named}\n");
    let metadata = format!("Name: velmora_cli\nRequires-Dist: {required}; python_version > '3'\n");
    let cli = archive(&[
        ("velmora_cli-1.dist-info/METADATA", metadata.as_bytes()),
        ("velmora_cli-1.dist-info/entry_points.txt", entries.as_bytes()),
        ("velmora_cli/__init__.py", b""),
    ]);
    let tones = archive(&[("velmora_tones-1.dist-info/METADATA", b""), ("velmora_tones/__init__.py", b"")]);
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("velmora_cli-1-py3-none-any.whl"), cli).unwrap();
    fs::write(folder.path().join("velmora_tones-1-py3-none-any.whl"), tones).unwrap();
    let (_, report) = look(folder.path());
    let found = report.findings.iter().map(|found| format!("{} {}", found.severity.word(), found.subject));
    assert_eq!(found.collect::<Vec<_>>(), expected);
    let is_told =
        |found: &Finding| found.severity != Severity::Note || found.message.contains("velmora-voice");
    assert!(report.findings.iter().all(is_told), "{:?}", report.findings);
}

/// A class whose constants are texts, and names of classes.
fn class_naming(texts: &[&str], classes: &[&str]) -> Vec<u8> {
    let mut pool: Vec<Vec<u8>> = Vec::new();
    let text = |pool: &mut Vec<Vec<u8>>, text: &str| {
        pool.push([&[1], &(text.len() as u16).to_be_bytes()[..], text.as_bytes()].concat());
        pool.len() as u16
    };
    let mut of = |tag: u8, name: &str| {
        let at = text(&mut pool, name);
        pool.push([&[tag], &at.to_be_bytes()[..]].concat());
        pool.len() as u16
    };
    for (tag, names) in [(8, texts), (7, classes)] {
        for name in names {
            of(tag, name);
        }
    }
    let (this, above) = (of(7, "velmora/lines/Start"), of(7, "java/lang/Object"));
    let mut class = vec![0xca, 0xfe, 0xba, 0xbe, 0, 0, 0, 61];
    class.extend((pool.len() as u16 + 1).to_be_bytes());
    class.extend(pool.concat());
    class.extend([0x21, this, above, 0, 0, 0, 0].into_iter().flat_map(u16::to_be_bytes));
    class
}

const BUNDLE: &str =
    "Manifest-Version: 1.0\nBundle-SymbolicName: velmora.lines\nBundle-Activator: velmora.lines.Start\n";

#[rstest]
#[case::as_a_class(&["registerService"], &["velmora/Line"], true)]
#[case::as_a_text(&["registerService", "velmora.Line"], &[], true)]
#[case::without_the_call(&["velmora.Line"], &["velmora/Line"], false)]
#[case::another_interface(&["registerService", "velmora.Lines"], &["velmora/Liner"], false)]
fn code_that_registers_an_interface_names_it(
    #[case] texts: &[&str],
    #[case] classes: &[&str],
    #[case] may_register: bool,
) {
    let board = "<component name=\"board\"><implementation class=\"velmora.Board\"/><reference interface=\"velmora.Line\"/></component>";
    let boards = archive(&[
        ("META-INF/MANIFEST.MF", b"Manifest-Version: 1.0\nBundle-SymbolicName: velmora.board\nService-Component: OSGI-INF/board.xml\n"),
        ("OSGI-INF/board.xml", board.as_bytes()),
    ]);
    let start = class_naming(texts, classes);
    let manifest = format!("{BUNDLE}Import-Package: velmora\n");
    let lines =
        archive(&[("META-INF/MANIFEST.MF", manifest.as_bytes()), ("velmora/lines/Start.class", &start)]);
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("boards.jar"), boards).unwrap();
    fs::write(folder.path().join("lines.jar"), lines).unwrap();
    let (_, report) = look(folder.path());
    let found: Vec<&str> = report.findings.iter().map(|found| found.rule.name).collect();
    let expected: &[&str] = if may_register { &[] } else { &["missing-implementation"] };
    assert_eq!(found, expected);
    let spots = report.blind_spots.iter().filter(|spot| spot.kind == BlindSpotKind::RegisteredByCode);
    let roles: Vec<&str> = spots.flat_map(|spot| &spot.places).map(|place| place.role.as_ref()).collect();
    let expected: &[&str] =
        if may_register { &["velmora.lines.Start registers services and names the contract"] } else { &[] };
    assert_eq!(roles, expected);
    // What was worked out stands in no file, and counts in no figure.
    let facts: usize = report.readers.iter().map(|coverage| coverage.facts).sum();
    assert_eq!(facts, 1);
}

#[test]
fn descriptions_that_a_bundle_does_not_list_are_noted() {
    let described = |name: &str| {
        format!(
            "<c:component xmlns:c=\"http://www.osgi.org/xmlns/scr/v1.3.0\" name=\"{name}\"><implementation class=\"velmora.{name}\"/></c:component>"
        )
    };
    let (one, two, three) = (described("One"), described("Two"), described("Three"));
    let jar = |headers: &str| {
        archive(&[
            ("META-INF/MANIFEST.MF", headers.as_bytes()),
            ("OSGI-INF/one.xml", one.as_bytes()),
            ("OSGI-INF/two.xml", two.as_bytes()),
            ("OSGI-INF/l10n/three.xml", three.as_bytes()),
            ("OSGI-INF/other.xml", b"<blueprint/>"),
        ])
    };
    let names = "Manifest-Version: 1.0\nBundle-SymbolicName: velmora.lines\n";
    let messages = |headers: &str| {
        let folder = tempfile::tempdir().unwrap();
        fs::write(folder.path().join("lines.jar"), jar(headers)).unwrap();
        let (_, report) = look(folder.path());
        let told = report.findings.iter().map(|found| {
            assert_eq!(found.severity, Severity::Note);
            found.message.split_whitespace().find(|word| word.starts_with("OSGI-INF")).unwrap().to_owned()
        });
        let mut told: Vec<_> = told.collect();
        told.sort_unstable();
        told
    };
    let all = ["OSGI-INF/l10n/three.xml,", "OSGI-INF/one.xml,", "OSGI-INF/two.xml,"];
    assert_eq!(messages(&format!("{names}Service-Component: OSGI-INF/one.xml\n")), [all[0], all[2]]);
    assert_eq!(messages(names), all);
}

/// Rule and subject of what is found where one jar's module requires others.
fn requiring(requires: &[(&str, u16)], others: &[(&str, &[u8])]) -> Vec<String> {
    let class = descriptor("velmora.voice", requires, &[], &[]);
    let jar = archive(&[("module-info.class", &class)]);
    let all: Vec<(&str, &[u8])> =
        [("voice.jar", jar.as_slice())].into_iter().chain(others.iter().copied()).collect();
    findings(&all)
}

#[test]
fn required_modules_are_in_some_jar() {
    const STATIC: u16 = 0x40;
    let tones = archive(&[("velmora/Tone.class", b"")]);
    let named = archive(&[("META-INF/MANIFEST.MF", b"Automatic-Module-Name: velmora.tones\n")]);
    let described = archive(&[("module-info.class", &descriptor("velmora.tones", &[], &[], &[]))]);
    let nested = archive(&[("lib/velmora-tones-2.jar", b"")]);
    let missing = ["missing-module velmora.tones voice.jar!/module-info.class"];
    assert_eq!(requiring(&[("velmora.tones", 0), ("java.base", 0x8000), ("jdk.net", 0)], &[]), missing);
    assert_eq!(requiring(&[("velmora.tones", STATIC)], &[]), [""; 0]);
    assert_eq!(requiring(&[("velmora.tones", 0)], &[("velmora-tones-1.0.jar", &tones)]), [""; 0]);
    assert_eq!(requiring(&[("velmora.tones", 0)], &[("a.jar", &named)]), [""; 0]);
    assert_eq!(requiring(&[("velmora.tones", 0)], &[("a.jar", &described)]), [""; 0]);
    assert_eq!(requiring(&[("velmora.tones", 0)], &[("a.jar", &nested)]), [""; 0]);
    // Several jars may be packed into one.
    let class = descriptor("velmora.voice", &[("velmora.tones", 0)], &[], &[]);
    let packed =
        archive(&[("META-INF/versions/9/module-info.class", &class), ("velmora/tones/Tone.class", b"")]);
    assert_eq!(findings(&[("all.jar", &packed)]), [""; 0]);
    // A jar that says its name is not called after its file.
    assert_eq!(requiring(&[("a", 0), ("velmora.tones", 0)], &[("a.jar", &named)]).len(), 1);
    // What cannot be read may be anything.
    assert!(
        requiring(&[("velmora.tones", 0)], &[("a.jar", b"no archive")])
            .iter()
            .all(|found| !found.contains("module"))
    );
}

#[test]
fn module_descriptors_provide_and_use() {
    let class =
        descriptor("velmora.voice", &[], &[("velmora/Announcer", "velmora/Cabn")], &["velmora/Sound"]);
    let jar = archive(&[("module-info.class", &class), ("velmora/Cabin.class", b"")]);
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("voice.jar"), jar).unwrap();
    let (wiring, report) = look(folder.path());
    let found: Vec<&str> = report.findings.iter().map(|found| found.subject.as_str()).collect();
    assert_eq!(found, ["velmora.Cabn"]);
    let mut fixes = report.findings[0].fixes.iter();
    assert!(fixes.any(|fix| fix.title == "write velmora.Cabin"), "{:?}", report.findings);
    let source = &wiring.sources[report.findings[0].places[0].source.index()];
    assert!(source.text.contains("provides velmora.Announcer with velmora.Cabn;\n    uses velmora.Sound;"));
    assert_eq!(report.summary.needs, 1);
    assert_eq!(wiring.text(wiring.modules[0].module.name), "velmora.voice");
}

#[test]
fn bundles_are_read_whole() {
    let component = |name: &str, body: &str| {
        format!(
            "<scr:component xmlns:scr='http://www.osgi.org/xmlns/scr/v1.1.0' name='{name}'><implementation class='velmora.X'/>{body}</scr:component>"
        )
    };
    let manifest = "Manifest-Version: 1.0\nBundle-SymbolicName: velmora.board;singleton:=true\nService-Component: OSGI-INF/*.xml, gone.xml\n";
    let bundle = archive(&[
        ("META-INF/MANIFEST.MF", manifest.as_bytes()),
        ("OSGI-INF/one.xml", component("one", "<reference interface='velmora.lines.Line'/>").as_bytes()),
        ("OSGI-INF/two.xml", component("two", "<reference interface='velmora.Track'/>").as_bytes()),
        ("OSGI-INF/l10n/deep.xml", b"<x/>"),
    ]);
    // Its code sees the package of lines and not that of tracks.
    let code = archive(&[(
        "META-INF/MANIFEST.MF",
        b"Bundle-SymbolicName: velmora.code\nBundle-Activator: velmora.code.Start\nImport-Package: velmora.lines;version=\"[1,2)\", velmora.x\n",
    )]);
    let found = findings(&[("board.jar", &bundle), ("code.jar", &code)]);
    assert_eq!(
        found,
        [
            "missing-implementation velmora.Track board.jar!/OSGI-INF/two.xml",
            "wrong-shape Service-Component board.jar!/META-INF/MANIFEST.MF",
        ]
    );
}

#[test]
fn wheels_say_what_they_hold_and_do_not_clash() {
    let wheel = |name: &str, target: &str| {
        archive(&[
            (&format!("{name}/__init__.py"), b""),
            (&format!("{name}-1.0.data/platlib/{name}_fast.so"), b""),
            (&format!("{name}-1.0.dist-info/METADATA"), b"Name: x\nProvides-Extra: loud\nRequires-Dist: nobody\n"),
            (
                &format!("{name}-1.0.dist-info/entry_points.txt"),
                format!("[console_scripts]\nspeak = {target}:main [loud]\nshout = {target}:main\nfast = {name}_fast:main\n").as_bytes(),
            ),
        ])
    };
    let found = findings(&[
        ("a-1.0-py3-none-any.whl", &wheel("a", "a")),
        ("b-1.0-py3-none-any.whl", &wheel("b", "bb")),
    ]);
    assert_eq!(found, ["missing-type bb b-1.0-py3-none-any.whl!/b-1.0.dist-info/entry_points.txt"]);
}

#[test]
fn an_archive_that_explodes_is_a_finding_and_the_rest_is_read() {
    let zeros = vec![b'\n'; 40 << 20];
    let jar = archive(&[(ANNOUNCER, &zeros), ("META-INF/services/velmora.Sound", b"velmora.Gone\n")]);
    assert!(jar.len() < 100_000);
    let found = findings(&[("bomb.jar", &jar)]);
    assert_eq!(
        found,
        [
            "missing-type velmora.Gone bomb.jar!/META-INF/services/velmora.Sound".to_owned(),
            format!("unreadable-file bomb.jar!/{ANNOUNCER} bomb.jar!/{ANNOUNCER}"),
        ]
    );
}

#[test]
fn a_small_archive_asks_for_little_work() {
    let lines = "no class\n".repeat(1 << 20);
    let jar =
        archive(&[(ANNOUNCER, lines.as_bytes()), ("META-INF/services/velmora.Sound", b"velmora.Gone\n")]);
    assert!(jar.len() < 60_000);
    let (_, steps) = corvant_core::work::measured(|| findings(&[("small.jar", &jar)]).len());
    assert!(steps < 100_000, "{steps} steps");
    // What a file of that size may unpack to is read, and its faults are told as those of any file.
    let faults = "velmora.A\n".to_owned() + &"no class\n".repeat(3_000);
    let found = findings(&[("small.jar", &archive(&[(ANNOUNCER, faults.as_bytes())]))]);
    assert_eq!(found.iter().filter(|found| found.starts_with("wrong-shape")).count(), 101);
}

#[test]
fn many_patterns_of_a_bundle_are_held_against_its_files_at_once() {
    let patterns: Vec<String> = (0..4_000).map(|n| format!("OSGI-INF/*{n}*.xml")).collect();
    let manifest = format!("Bundle-SymbolicName: velmora.many\nService-Component: {}\n", patterns.join(","));
    let xml = b"<component name='c'><implementation class='velmora.Many'/></component>".as_slice();
    let files: Vec<String> = (0..3_000).map(|n| format!("OSGI-INF/{n}.xml")).collect();
    let entries = files.iter().map(|path| (path.as_str(), xml));
    let all: Vec<(&str, &[u8])> =
        [("META-INF/MANIFEST.MF", manifest.as_bytes())].into_iter().chain(entries).collect();
    let begun = std::time::Instant::now();
    let found = findings(&[("many.jar", &archive(&all))]);
    assert!(begun.elapsed() < std::time::Duration::from_secs(20), "{:?}", begun.elapsed());
    let too_many = |found: &String| found.starts_with("wrong-shape Service-Component");
    assert_eq!(
        found.iter().filter(|found| too_many(found)).count(),
        1,
        "{:#?}",
        &found[..found.len().min(5)]
    );
}

#[test]
fn a_description_that_several_patterns_mean_is_read_once() {
    let manifest = b"Bundle-SymbolicName: velmora.a\nService-Component: OSGI-INF/*.xml, OSGI-INF/a*.xml, OSGI-INF/a.xml\n";
    let xml = b"<component name='c'><implementation class='velmora.A'/><service><provide interface='velmora.I'/></service></component>";
    let files: [(&str, &[u8]); 3] =
        [("META-INF/MANIFEST.MF", manifest), ("OSGI-INF/a.xml", xml), ("velmora/A.class", b"")];
    for in_folder in [false, true] {
        let folder = tempfile::tempdir().unwrap();
        if in_folder {
            for (path, bytes) in &files {
                let path = folder.path().join(path);
                fs::create_dir_all(path.parent().unwrap()).unwrap();
                fs::write(path, bytes).unwrap();
            }
        } else {
            fs::write(folder.path().join("a.jar"), archive(&files)).unwrap();
        }
        let (wiring, report) = look(folder.path());
        assert_eq!(wiring.facts.services.len(), 1, "{in_folder}");
        assert_eq!(report.findings.len(), 0, "{in_folder}: {:#?}", report.findings);
    }
}

#[test]
fn what_lies_outside_of_a_bundle_is_no_part_of_it() {
    let manifest = b"Bundle-SymbolicName: velmora.a\nService-Component: ../a.xml, /../a.xml, x/../../*.xml, ../../a.xml\n";
    let found = findings(&[("a.jar", &archive(&[("META-INF/MANIFEST.MF", manifest)]))]);
    assert_eq!(found, ["wrong-shape Service-Component a.jar!/META-INF/MANIFEST.MF"; 3]);
}

#[rstest]
#[case::no_archive(b"hello".to_vec(), "bad.jar")]
#[case::empty(Vec::new(), "bad.jar")]
#[case::cut_off(archive(&[(ANNOUNCER, b"velmora.Cabin")])[..60].to_vec(), "bad.jar")]
#[case::broken_descriptor(archive(&[("module-info.class", b"nothing")]), "bad.jar!/module-info.class")]
#[case::no_text(archive(&[(ANNOUNCER, b"\xff\xfe\x00")]), "bad.jar!/META-INF/services/velmora.Announcer")]
#[case::no_xml(
    archive(&[("META-INF/MANIFEST.MF", b"Service-Component: a.xml\n"), ("a.xml", b"<a>")]),
    "bad.jar!/a.xml"
)]
fn what_cannot_be_read_is_a_finding_and_the_rest_goes_on(#[case] bytes: Vec<u8>, #[case] subject: &str) {
    let good = archive(&[(ANNOUNCER, b"velmora.Gone\n")]);
    let found = findings(&[("bad.jar", &bytes), ("good.jar", &good)]);
    assert!(found.contains(&format!("unreadable-file {subject} {subject}")), "{found:?}");
    assert!(found.contains(&format!("missing-type velmora.Gone good.jar!/{ANNOUNCER}")), "{found:?}");
}

#[test]
fn jars_in_jars_are_said_and_silence_what_cannot_be_known() {
    let jar = archive(&[(ANNOUNCER, b"velmora.Gone\n"), ("lib/inner.jar", b"x")]);
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("outer.jar"), jar).unwrap();
    let (_, report) = look(folder.path());
    assert!(report.findings.is_empty(), "{:?}", report.findings);
    assert_eq!(report.blind_spots[0].subject, "outer.jar");
}

#[test]
fn any_archive_can_be_read() {
    let class =
        descriptor("velmora.voice", &[], &[("velmora/Announcer", "velmora/Cabin")], &["velmora/Sound"]);
    let jar = archive(&[
        (ANNOUNCER, b"velmora.Cabin\n"),
        ("META-INF/MANIFEST.MF", b"Bundle-SymbolicName: a\nService-Component: a.xml\nBundle-Activator: b\n"),
        (
            "a.xml",
            b"<component><implementation class='a'/><reference interface='b' target='(a=b)'/></component>",
        ),
        ("module-info.class", &class),
    ]);
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("any.jar");
    fuzz("archives", &[jar], 500, |bytes| {
        fs::write(&path, bytes).unwrap();
        look_without_failing(folder.path());
    });
}

#[test]
fn any_class_file_can_be_read() {
    let descriptors =
        [descriptor("velmora.voice", &[], &[("velmora/Announcer", "velmora/Cabin")], &["velmora/Sound"])];
    let folder = tempfile::tempdir().unwrap();
    fuzz("class-files", &descriptors, 1_000, |bytes| {
        fs::write(folder.path().join("module-info.class"), bytes).unwrap();
        look_without_failing(folder.path());
    });
}

/// What fails inside the program is a finding of the file; here it is a failure.
fn look_without_failing(root: &Path) {
    // There may be nothing to audit in it.
    if workspace::read(root).is_err() {
        return;
    }
    let (_, report) = look(root);
    assert!(report.findings.iter().all(|finding| !finding.message.contains("which is its own fault")));
}

#[rstest]
#[case::an_archive_of_nothing("lib.jar", archive(&[("velmora/Cabin.class", b"")]))]
#[case::a_unit_of_something_else("clock.service", b"[Unit]\nDescription=x\n".to_vec())]
#[case::a_manifest_of_no_bundle("META-INF/MANIFEST.MF", b"Manifest-Version: 1.0\n".to_vec())]
fn what_only_has_the_name_of_something_is_nothing_to_audit(#[case] path: &str, #[case] bytes: Vec<u8>) {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join(path);
    fs::create_dir_all(file.parent().unwrap()).unwrap();
    fs::write(file, bytes).unwrap();
    let read = workspace::read(folder.path());
    assert!(matches!(read, Err(workspace::WorkspaceError::NothingFound { .. })), "{read:?}");
}

#[test]
fn a_distribution_that_is_a_link_to_its_sources_is_not_held_to_its_list() {
    let folder = tempfile::tempdir().unwrap();
    let own = folder.path().join("site-packages/velmora-1.0.dist-info");
    fs::create_dir_all(&own).unwrap();
    fs::write(own.join("entry_points.txt"), "[velmora.plugins]\none = velmora.one:One\n").unwrap();
    fs::write(own.join("RECORD"), "__editable__.velmora-1.0.pth,,\nvelmora-1.0.dist-info/RECORD,,\n")
        .unwrap();
    assert!(look(folder.path()).1.findings.is_empty());
    fs::write(own.join("RECORD"), "velmora/two.py,,\nvelmora-1.0.dist-info/RECORD,,\n").unwrap();
    assert_eq!(look(folder.path()).1.findings[0].subject, "velmora.one");
}

#[test]
#[cfg(unix)]
fn a_pipe_or_a_folder_with_the_name_of_an_archive_is_not_waited_for() {
    let folder = tempfile::tempdir().unwrap();
    fs::create_dir_all(folder.path().join("folder.jar")).unwrap();
    std::os::unix::fs::symlink("/dev/zero", folder.path().join("null.jar")).unwrap();
    std::os::unix::fs::symlink("/dev/null", folder.path().join("masked.service")).unwrap();
    let (_, report) = look(folder.path());
    let found: Vec<_> =
        report.findings.iter().map(|found| (found.rule.name, found.subject.as_str())).collect();
    assert_eq!(found, [("unreadable-file", "null.jar")]);
}

#[test]
fn every_reader_is_accounted_for() {
    let folder = tempfile::tempdir().unwrap();
    let write = |path: &str, bytes: &[u8]| {
        let file = folder.path().join(path);
        fs::create_dir_all(file.parent().unwrap()).unwrap();
        fs::write(file, bytes).unwrap();
    };
    write("voice.jar", &archive(&[(ANNOUNCER, b"java.Voice\n"), ("META-INF/services/x/y", b"z")]));
    write(
        "bus/services/org.velmora.Clock.service",
        b"[D-BUS Service]\nName=org.velmora.Clock\nExec=/bin/clock\n",
    );
    write("a.wiring.yaml", b"corvant: 1\nmodule: a\nservices: { a.b: {} }\n");
    let (wiring, report) = look(folder.path());
    let readers = report.readers.iter().map(|coverage| {
        let reader = coverage.reader.map(|reader| wiring.text(reader));
        (reader, coverage.files, coverage.facts, coverage.left_over)
    });
    let expected = [(None, 1, 1, 0), (Some("activation-files"), 1, 1, 0), (Some("provider-files"), 2, 1, 1)];
    assert_eq!(readers.collect::<Vec<_>>(), expected);
    let (accounts, _) = workspace::explain(folder.path(), workspace::Beside::default()).unwrap();
    let paths: Vec<&str> = accounts.iter().map(|account| account.path.as_str()).collect();
    let inner = format!("voice.jar!/{ANNOUNCER}");
    assert_eq!(
        paths,
        ["a.wiring.yaml", "bus/services/org.velmora.Clock.service", "voice.jar", inner.as_str()]
    );
}

const WIRED: &str =
    "[[types]]\nfiles = ['lib/**']\n[wire]\nmark = [{ name = 'velmora.depot.Under', gives = 'key' }]\n";
const GATE: &str = "corvant: 1\nmodule: depot\nservices:\n  gate: { type: velmora.depot.Gate, wire: constructor }\n  \
    lamp: { built-by: { service: gate, method: lamb }, offers: [velmora.depot.Lamp], needs: {} }\n  \
    gaet: { type: velmora.depot.Gaet }\n  lost: { type: velmora.depot.Gate, needs: { clcok: { service: lamp } } }\n\
    entries: { open: { needs: { gate: { contract: velmora.depot.Opening }, gaet: { service: gaet }, lost: { service: lost } } } }\n";

/// What class files say of types is what their source says: constructors with names and marks, arguments of types, what is
/// implemented; in a folder and in a jar alike.
#[rstest]
#[case::in_a_folder(false)]
#[case::in_a_jar(true)]
fn class_files_are_types(#[case] is_packed: bool) {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    fs::create_dir_all(root.join("lib/velmora/depot")).unwrap();
    if is_packed {
        fs::write(root.join("lib/depot.jar"), archive(&CLASSES)).unwrap();
    } else {
        for (path, bytes) in CLASSES {
            fs::write(root.join("lib").join(path), bytes).unwrap();
        }
    }
    fs::write(root.join("corvant.toml"), WIRED).unwrap();
    fs::write(
        root.join("depot.wiring.yaml"),
        GATE.replace("wire: constructor", "wire: constructor, offers: [super-types]"),
    )
    .unwrap();
    let (_, report) = look(root);
    let mut found: Vec<String> =
        report.findings.iter().map(|found| format!("{} {}", found.rule.name, found.subject)).collect();
    found.sort_unstable();
    // The lamp that the gate collects is built by the gate.
    let expected = [
        "argument-mismatch lost",
        "missing-implementation velmora.depot.Clock#day",
        "missing-method velmora.depot.Gate.lamb",
        "missing-type velmora.depot.Gaet",
        "service-cycle gate > lamp",
    ];
    assert_eq!(found, expected);
}

/// A class file that is none makes its package doubtful, and the rest of the jar counts.
#[test]
fn a_broken_class_file_is_a_blind_spot() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    fs::create_dir_all(root.join("lib")).unwrap();
    let broken: &[u8] = &CLASSES[0].1[..300];
    let jar = archive(&[CLASSES[1], ("velmora/depot/Gate.class", broken), ("velmora/yard/No.class", b"")]);
    fs::write(root.join("lib/depot.jar"), jar).unwrap();
    fs::write(root.join("corvant.toml"), WIRED).unwrap();
    fs::write(root.join("depot.wiring.yaml"), GATE).unwrap();
    let (_, report) = look(root);
    let spots = report.blind_spots.iter().filter(|spot| spot.kind == BlindSpotKind::DoubtfulCode);
    assert_eq!(spots.map(|spot| spot.subject.as_str()).collect::<Vec<_>>(), ["lib/depot.jar"]);
    assert!(report.findings.iter().all(|found| found.rule.name != "missing-type"), "{:#?}", report.findings);
}
