//! Types that code declares, held against what definitions name.

use corvant_core::audit::{Options, audit};
use corvant_core::finding::BlindSpotKind;
use corvant_read::workspace::{self, Beside};
use corvant_testing::{expect, messages};
use rstest::rstest;
use std::path::Path;

/// A workspace in which all code counts, with one service of a type.
fn workspace(code: &[(&str, &str)], type_name: &str) -> String {
    let mut text = format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"**/src/**\"]\n\
         //- depot.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  depot.gate: {{ type: '{type_name}' }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: depot.gate }} }} }} }}\n"
    );
    for (path, code) in code {
        text.extend(["//- ", path, "\n", code, "\n"]);
    }
    text
}

/// What an audit leaves out, as it tells of findings alone, is nothing that findings depend on.
#[rstest]
#[case::java("../../examples/types/marked-java", true)]
#[case::php("../../examples/types/records-php", true)]
#[case::c_sharp("../../examples/types/wired-csharp", false)]
#[case::python("../../examples/code/ledger-python", true)]
#[case::type_script("../../examples/code/pins-typescript", false)]
#[case::kotlin("../../examples/code/shelf-kotlin", false)]
#[case::calls("../../examples/code/yard-java", true)]
fn what_is_left_out_changes_no_finding(#[case] root: &str, #[case] has_methods: bool) {
    let audited = |only_findings: bool| {
        let beside = Beside { only_findings, ..Beside::default() };
        let (wiring, blind_spots) = workspace::read_beside(Path::new(root), beside).unwrap().link();
        let mut report = audit(&wiring, &Options::default());
        report.blind_spots.extend(blind_spots);
        let parameters = wiring.facts.parts.parameters.len();
        (format!("{:#?} {:#?}", report.findings, report.blind_spots), parameters)
    };
    let ((whole, all), (short, fewer)) = (audited(false), audited(true));
    assert!(whole == short, "{whole}\n{short}");
    assert_eq!(fewer < all, has_methods, "{fewer} of {all} parameters");
}

const JAVA: &[(&str, &str)] = &[
    ("depot/src/Gate.java", "package velmora.depot;\nclass Gate { static class Lock {} }"),
    ("depot/src/Lamp.java", "package velmora.depot;\nclass Lamp {}"),
    ("signals/src/Signal.java", "package velmora.signals;\nclass Signal {}"),
];

fn found(text: &str) -> Vec<String> {
    messages(text).iter().map(|found| format!("{} {}", found.rule, found.subject)).collect()
}

#[rstest]
#[case::there("velmora.depot.Gate", &[])]
#[case::nested("velmora.depot.Gate.Lock", &[])]
#[case::nested_as_the_platform_has_it("velmora.depot.Gate$Lock", &[])]
#[case::with_arguments("velmora.depot.Gate<velmora.depot.Lamp>", &[])]
#[case::otherwise_written("velmora/depot/Gate", &[])]
#[case::misspelt("velmora.depot.Gaet", &["missing-type velmora.depot.Gaet"])]
#[case::in_another_case("velmora.depot.gate", &["missing-type velmora.depot.gate"])]
#[case::of_another_scope("velmora.signals.Gate", &["missing-type velmora.signals.Gate"])]
#[case::nested_and_not_there("velmora.depot.Gate.Key", &["missing-type velmora.depot.Gate.Key"])]
#[case::of_a_scope_without_code("velmora.crew.Roster", &[])]
#[case::of_a_scope_above("velmora.Depot", &[])]
#[case::without_a_scope("Gate", &[])]
fn a_type_is_looked_for_where_its_scope_is_known(#[case] type_name: &str, #[case] expected: &[&str]) {
    assert_eq!(found(&workspace(JAVA, type_name)), expected);
}

#[rstest]
#[case::misspelt("velmora.depot.Gaet", "write velmora.depot.Gate (depot/src/Gate.java:2)")]
#[case::letter_case("velmora.Depot.Gate", "")]
#[case::elsewhere("velmora.signals.Lamp", "write velmora.depot.Lamp (depot/src/Lamp.java:2)")]
#[case::in_the_houses_writing("velmora/depot/Gaet", "write velmora/depot/Gate (depot/src/Gate.java:2)")]
#[case::nothing_like_it("velmora.depot.Turntable", "declare it, or name the type that is meant")]
fn what_is_meant_is_told(#[case] type_name: &str, #[case] fix: &str) {
    let found = messages(&workspace(JAVA, type_name));
    assert_eq!(found.is_empty(), fix.is_empty(), "{found:#?}");
    assert!(found.iter().all(|found| found.text.contains(fix)), "{found:#?}");
}

#[test]
fn services_entries_and_providers_of_every_format_are_held_against_code() {
    expect(
        r#"
//- corvant.toml
roster = ["p"]
[[types]]
files = ["src/*.php", "src/*.cs"]
[[reader]]
name = "objects"
files = ["objects.ini"]
syntax = "ini"
module = "depot"
[[reader.take]]
what = "service"
each = "$.*"
id = { key = true }
type = "$.make"
//- src/depot.php
<?php namespace Velmora\Depot; class Gate {} class Lamp {}
//- src/Board.cs
namespace Velmora.Boards { public class Board { } }
//- objects.ini
[depot.gate]
make = Velmora\Depot\Gate
[depot.lamp]
make = \Velmora\Depot\Lamps
       ^^^^^^^^^^^^^^^^^^^^ missing-type \Velmora\Depot\Lamps
//- depot.wiring.yaml
corvant: 1
module: web
services:
  base: { template: true, type: Velmora.Boards.Bord }
                                ^^^^^^^^^^^^^^^^^^^ missing-type Velmora.Boards.Bord
  one: { like: base }
providers: { p: { type: Velmora.Boards.Provider, registers: [one] } }
                        ^^^^^^^^^^^^^^^^^^^^^^^ missing-type Velmora.Boards.Provider
entries:
  e:
    type: Velmora.Boards.Page
          ^^^^^^^^^^^^^^^^^^^ missing-type Velmora.Boards.Page
    needs: { a: { service: depot.gate }, b: { service: depot.lamp }, c: { service: one } }
"#,
    );
}

/// The fix of a type that a model in another file names is made there, and nowhere else.
#[test]
fn a_type_that_is_taken_over_is_told_where_it_is_written() {
    expect(
        r#"
//- corvant.toml
[[types]]
files = ["src/*.java"]
//- src/Gate.java
package velmora.depot; class Gate {}
//- a.wiring.yaml
corvant: 1
module: a
services:
  base: { template: true, type: velmora.depot.Gaet }
                                ^^^^^^^^^^^^^^^^^^ missing-type velmora.depot.Gaet
//- b.wiring.yaml
corvant: 1
module: b
services: { gate: { like: base } }
entries: { open: { needs: { gate: { service: gate } } } }
"#,
    );
    let files = "//- corvant.toml\n[[types]]\nfiles = [\"src/*.java\"]\n//- src/Gate.java\npackage velmora.depot; class Gate {}\n\
        //- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: { base: { template: true, type: velmora.depot.Gaet } }\n\
        //- b.wiring.yaml\ncorvant: 1\nmodule: b\nservices: { gate: { like: base } }\nentries: { open: { needs: { gate: { service: gate } } } }\n";
    corvant_testing::expect_fixed(files, &files.replace("Gaet", "Gate"), true);
}

#[test]
fn code_in_doubt_silences_its_scope_and_is_told() {
    let broken = "package velmora.depot;\nclass Broken { String s = \"; }";
    let code = [JAVA, &[("depot/src/Broken.java", broken)]].concat();
    assert_eq!(found(&workspace(&code, "velmora.depot.Gaet")), [""; 0]);
    assert_eq!(found(&workspace(&code, "velmora.signals.Sigal")), ["missing-type velmora.signals.Sigal"]);
    let text = workspace(&code, "velmora.depot.Gate");
    let files = corvant_testing::files(&text);
    let read =
        workspace::from_texts(files.iter().map(|(path, text)| (path.as_str(), text.as_str()))).unwrap();
    let spots = read.link().1;
    assert_eq!(spots.len(), 1, "{spots:#?}");
    assert_eq!(
        (spots[0].kind, spots[0].subject.as_str()),
        (BlindSpotKind::DoubtfulCode, "depot/src/Broken.java")
    );
    assert!(spots[0].message.starts_with("a string does not end in its line in line 2:"), "{spots:#?}");
    // Where not even the scope is known, nothing is called missing.
    let code = [JAVA, &[("depot/src/Broken.java", "/* package velmora.depot;")]].concat();
    assert_eq!(found(&workspace(&code, "velmora.signals.Sigal")), [""; 0]);
}

#[test]
fn what_stands_outside_of_types_in_kotlin_is_a_type_called_after_the_file() {
    let code = [("src/Yard.kt", "package velmora.yard\nclass Gate\nfun open() {}")];
    assert_eq!(found(&workspace(&code, "velmora.yard.YardKt")), [""; 0]);
    assert_eq!(found(&workspace(&code, "velmora.yard.GateKt")), ["missing-type velmora.yard.GateKt"]);
}

#[test]
fn a_byte_order_mark_is_no_part_of_the_code() {
    let code = [("src/Gate.java", "\u{feff}package velmora.depot;\nclass Gate {}")];
    assert_eq!(found(&workspace(&code, "velmora.depot.Gaet")), ["missing-type velmora.depot.Gaet"]);
}

#[test]
fn files_that_declare_no_types_are_not_read_and_none_at_all_is_told() {
    let code = [("src/notes.txt", "class Gate {")];
    let text = workspace(&code, "velmora.depot.Gate");
    assert_eq!(found(&text), [""; 0]);
    let files = corvant_testing::files(&text);
    let read =
        workspace::from_texts(files.iter().map(|(path, text)| (path.as_str(), text.as_str()))).unwrap();
    let (wiring, spots) = read.link();
    assert_eq!((spots[0].kind, spots[0].subject.as_str()), (BlindSpotKind::IdleReader, "types"));
    let report = audit(&wiring, &Options::default());
    assert!(report.readers.iter().all(|known| known.reader.is_none()));
}

#[test]
fn the_report_counts_code_beside_manifests() {
    let text = workspace(JAVA, "velmora.depot.Gate");
    let wiring = corvant_testing::wiring_of(&text);
    let report = audit(&wiring, &Options::default());
    let code = report.readers.iter().find(|known| known.reader.is_some()).unwrap();
    assert_eq!((report.summary.manifests, code.files, code.facts), (1, 3, 4));
}

/// Where a scope has its folder, its types must lie in files that are called after them.
#[rstest]
#[case::right("src/Depot/Gate.php", "")]
#[case::letter_case(
    "src/depot/Gate.php",
    "is looked for in src/Depot/Gate.php and lies in src/depot/Gate.php, which differs in the case of letters"
)]
#[case::elsewhere("src/Gate.php", "is looked for in src/Depot/Gate.php and lies in src/Gate.php:")]
#[case::not_below("lib/Gate.php", "")]
fn files_are_called_after_their_types(#[case] path: &str, #[case] expected: &str) {
    let text = format!(
        "//- corvant.toml\n[[types]]\nfiles = ['*/**']\nfolders = [{{ below = 'src', scope = 'Velmora' }}]\n\
         //- depot.wiring.yaml\ncorvant: 1\nmodule: depot\nservices: {{ gate: {{ type: 'Velmora\\Depot\\Gate' }} }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }} }} }} }}\n\
         //- {path}\n<?php namespace Velmora\\Depot; class Gate {{}}\n"
    );
    let found = messages(&text);
    assert_eq!(found.len(), usize::from(!expected.is_empty()), "{found:#?}");
    assert!(
        found.iter().all(|found| found.rule == "missing-type" && found.text.contains(expected)),
        "{found:#?}"
    );
}

/// However much of something stands in a file of code, the audit comes to its end, and the types before it are known or
/// their scope is not.
#[rstest]
fn of_no_code_is_there_too_much(
    #[values("java", "kt", "cs", "php", "ts", "py")] ending: &str,
    #[values(
        "a<",
        "(",
        "{",
        "@A ",
        "@A(",
        "\"",
        "@",
        "$",
        "'",
        "/*",
        "/",
        "#",
        "class A {",
        "class A(",
        "x = ",
        "import a.\n"
    )]
    piece: &str,
) {
    let text = format!("{}\nclass Gate {{ }}\n{}", head_of(ending), piece.repeat((1 << 20) / piece.len()));
    let path = format!("src/Gate.{ending}");
    let code = [(path.as_str(), text.as_str())];
    let found = found(&workspace(&code, "velmora.depot.Gate"));
    assert!(found.iter().all(|found| found.starts_with("missing-type")), "{found:?}");
}

fn head_of(ending: &str) -> &'static str {
    match ending {
        "java" => "package velmora.depot;",
        "kt" => "package velmora.depot",
        "cs" => "namespace velmora.depot;",
        "php" => "<?php namespace velmora\\depot;",
        _ => "",
    }
}

#[test]
fn code_that_is_too_large_is_a_blind_spot() {
    let line = format!("package velmora.depot; class Gate {{ }} // {}", "x".repeat(100 << 20));
    let workspace = workspace::from_texts([
        ("corvant.toml", "[[types]]\nfiles = ['*.java']\n"),
        ("Gate.java", line.as_str()),
        (
            "a.wiring.yaml",
            "corvant: 1\nmodule: a\nservices: { gate: { type: velmora.depot.Gaet } }\n\
             entries: { open: { needs: { gate: { service: gate } } } }\n",
        ),
    ]);
    let (wiring, blind_spots) = workspace.unwrap().link();
    assert_eq!(audit(&wiring, &Options::default()).findings.len(), 0);
    let told: Vec<&str> = blind_spots.iter().map(|spot| spot.message.as_str()).collect();
    assert!(told.iter().any(|told| told.starts_with("the file is larger than 8 MiB")), "{told:?}");
}

/// A type that is declared again and again costs no more than as many types.
#[test]
fn of_a_type_that_is_declared_too_often_nothing_is_known() {
    let code = format!("class Lit: pass\n{}", "class Gate: pass\n".repeat(20_000));
    let services: String =
        (0..2_000).map(|at| format!("  s{at}: {{ type: a.Gate, offers: [a.Lit] }}\n")).collect();
    let manifest = format!("corvant: 1\nmodule: a\nservices:\n{services}");
    let workspace = workspace::from_texts([
        (
            "corvant.toml",
            "[[types]]\nfiles = ['*.py']\n[policy]\noffers = 'super-types'\nwire = 'constructor'\n",
        ),
        ("a.py", code.as_str()),
        ("a.wiring.yaml", manifest.as_str()),
    ]);
    let (wiring, _) = workspace.unwrap().link();
    let findings = audit(&wiring, &Options::default()).findings;
    let rules: Vec<&str> = findings.iter().map(|found| found.rule.name).collect();
    assert!(!rules.contains(&"contract-not-implemented"), "{rules:?}");
}
