//! `corvant start`, and the first day with it.

mod support;

use rstest::rstest;
use std::fs;
use std::path::Path;
use support::{folder, run, write};

/// The house that nobody taught, as it lies in the examples.
fn house() -> tempfile::TempDir {
    let folder = folder(&[]);
    let plans = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples/first-day/plans");
    for entry in fs::read_dir(plans).unwrap() {
        let path = entry.unwrap().path();
        let name = format!("plans/{}", path.file_name().unwrap().to_str().unwrap());
        write(folder.path(), &name, &fs::read(&path).unwrap()).unwrap();
    }
    folder
}

#[test]
fn what_is_there_is_told_and_nothing_is_written() {
    let house = house();
    let outcome = run(&["start"], house.path());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/start.txt"]);
    assert!(!house.path().join("corvant.toml").exists());
}

/// What an audit finds with the draft is what was said.
#[test]
fn the_draft_that_is_shown_is_the_one_that_is_written_and_used() {
    let house = house();
    let shown = run(&["start", "--output", "-"], house.path());
    let said = run(&["start", "--write"], house.path());
    assert_eq!((shown.status, said.status), (0, 0));
    let written = fs::read_to_string(house.path().join("corvant.toml")).unwrap();
    assert_eq!(written, shown.stdout);
    let report = run(&["audit", "--format", "json"], house.path()).json();
    let summary = &report["summary"];
    let counts = format!("finds {} errors, {} warnings", summary["errors"], summary["warnings"]);
    assert!(said.stdout.contains(&counts), "{counts}: {}", said.stdout);
}

#[test]
fn a_workspace_file_is_never_written_over() {
    let house = house();
    write(house.path(), "corvant.toml", b"# ours\n").unwrap();
    let outcome = run(&["start", "--write"], house.path());
    assert_eq!(outcome.status, 2);
    assert!(outcome.stderr.contains("corvant.toml is there already"), "{outcome:?}");
    assert_eq!(fs::read_to_string(house.path().join("corvant.toml")).unwrap(), "# ours\n");
    assert_eq!(run(&["start", "--output", "draft.toml"], house.path()).status, 0);
    assert!(fs::read_to_string(house.path().join("draft.toml")).unwrap().contains("[[reader]]"));
    assert_eq!(run(&["start", "--output", "draft.toml"], house.path()).status, 2);
}

/// Lines are read where those of some file with their ending name types.
#[test]
fn plain_lines_are_drafted_beside_others_that_name_types() {
    let parts = |module: &str| -> String {
        let part = |number: usize| {
            format!(
                "{module}.gate-{number} = velmora.{module}.Gate{number}({module}.gate-{}, ${module}.wait)\n",
                (number + 1) % 6
            )
        };
        (0..6).map(part).collect()
    };
    let log: String =
        (0..90).map(|number| format!("opened depot.gate-{} in {number} s\n", number % 6)).collect();
    let folder = folder(&[
        ("parts/depot.wire", &parts("depot")),
        ("parts/crew.wire", &parts("crew")),
        ("parts/power.wire", &parts("power")),
        ("values/depot.wire", "depot.wait = 4\n"),
        ("values/crew.wire", "crew.wait = 5\n"),
        ("values/power.wire", "power.wait = 6\n"),
        ("depot.log", &log),
    ]);
    let outcome = run(&["start"], folder.path());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    assert!(outcome.stdout.contains("parts/*.wire: 3 files of lines: 18 services"), "{outcome:?}");
    assert!(outcome.stdout.contains("values/*.wire: 3 files of lines: 3 settings"), "{outcome:?}");
    assert!(!outcome.stdout.contains("log"), "{outcome:?}");
}

#[test]
fn what_is_read_already_is_not_drafted_again() {
    let house = house();
    assert_eq!(run(&["start", "--write"], house.path()).status, 0);
    let again = run(&["start"], house.path());
    assert_eq!(again.status, 0);
    assert!(again.stdout.starts_with("5 files are read already\n"), "{again:?}");
    assert!(again.stderr.contains("there is nothing to draft"), "{again:?}");
}

/// An empty workspace file would say nothing.
#[test]
fn where_there_is_nothing_to_draft_nothing_is_written() {
    let folder =
        folder(&[("depot.wiring.yaml", "corvant: 1\nmodule: depot\nservices: { depot.gate: {} }\n")]);
    for wanted in [["--output", "-"], ["--output", "draft.toml"], ["--write", "--quiet"]] {
        let outcome = run(&[["start"].as_slice(), &wanted].concat(), folder.path());
        assert_eq!((outcome.status, outcome.stdout.as_str()), (0, ""), "{outcome:#?}");
        assert!(outcome.stderr.contains("nothing is drafted"), "{outcome:#?}");
    }
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1);
}

#[test]
fn where_nothing_looks_like_definitions_that_is_said() {
    let folder = folder(&[("notes.yaml", "a: 1\n"), ("broken.json", "{")]);
    let outcome = run(&["start"], folder.path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""));
    assert!(outcome.stderr.contains("nothing in . looks like definitions: 2 files"), "{outcome:?}");
    let nowhere = run(&["start", "nowhere"], folder.path());
    assert_eq!(nowhere.status, 2);
    assert!(nowhere.stderr.contains("nowhere is not a folder that can be read"), "{nowhere:?}");
}

/// Definitions that lie one by one among other files are no less definitions for that.
#[test]
fn definitions_that_no_pattern_tells_from_others_are_named() {
    let house = folder(&[]);
    for number in 0..60 {
        let part = |name: &str, other: usize| {
            format!(
                "m{number}.{name}: {{ code: velmora.m{number}.Part, takes: [m{}.lamp] }}\n",
                (number + other) % 60
            )
        };
        let text = format!("{}{}", part("gate", 1), part("lamp", 2));
        write(house.path(), &format!("m{number}/a{number}.yaml"), text.as_bytes()).unwrap();
        write(
            house.path(),
            &format!("m{number}/b{number}.yaml"),
            format!("tabs: [1, {number}]\n").as_bytes(),
        )
        .unwrap();
    }
    let outcome = run(&["start"], house.path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (2, ""));
    let told = "there are 60 files with definitions that lie among others, so that no few patterns fit them alone, as */*.yaml in .";
    assert!(outcome.stderr.contains(told), "{outcome:?}");
}

/// Beside definitions lie files of other tools, which have ids and references too.
#[test]
fn what_nothing_says_of_that_it_is_definitions_is_told() {
    let house = house();
    for number in 0..5 {
        let steps = format!(
            "build-{number}:\n  run: make\ntest-{number}:\n  needs: [build-{number}]\nship-{number}:\n  needs: [test-{number}]\n"
        );
        write(house.path(), &format!("steps/{number}.yml"), steps.as_bytes()).unwrap();
    }
    let outcome = run(&["start"], house.path());
    let told = "not drafted: 5 files in which nothing says that they hold definitions, as steps/*.yml\n";
    assert!(outcome.stdout.contains(told), "{outcome:?}");
    assert!(!run(&["start", "--output", "-"], house.path()).stdout.contains("steps"));
    std::fs::remove_dir_all(house.path().join("plans")).unwrap();
    let nothing = run(&["start"], house.path());
    assert_eq!(nothing.status, 2);
    assert!(nothing.stderr.contains("looks like definitions: 5 files"), "{nothing:?}");
    assert!(nothing.stderr.contains("there are items in steps/*.yml, and nothing says"), "{nothing:?}");
}

/// Of very many files that cannot be read the first are named.
#[test]
fn of_many_files_that_cannot_be_read_some_are_named() {
    let house = house();
    for number in 0..20 {
        write(house.path(), &format!("plans/broken{number:02}.json"), b"{ \"area\":").unwrap();
    }
    let outcome = run(&["start"], house.path());
    assert!(outcome.stdout.contains("not read: plans/broken07.json: it is not well-formed"), "{outcome:?}");
    assert!(!outcome.stdout.contains("broken08"), "{outcome:?}");
    assert!(outcome.stdout.contains("not read: 12 further files that are not well-formed"), "{outcome:?}");
}

#[test]
fn files_that_cannot_be_read_are_named() {
    let house = house();
    write(house.path(), "plans/broken.json", b"{ \"area\":").unwrap();
    let outcome = run(&["start"], house.path());
    assert!(outcome.stdout.contains("not read: plans/broken.json: it is not well-formed"), "{outcome:?}");
}

/// The tutorial: every command in it is run, in its order, and says what stands below it.
#[test]
fn the_first_day_is_as_it_is_told() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/first-day.md");
    let text = fs::read_to_string(&path).unwrap();
    let house = house();
    let mut told = String::new();
    let mut parts = text.split("```console\n");
    told.push_str(parts.next().unwrap());
    for part in parts {
        let (block, rest) = part.split_once("```\n").unwrap();
        told.push_str("```console\n");
        for line in block.lines().filter(|line| line.starts_with("$ ")) {
            told.push_str(line);
            told.push('\n');
            told.push_str(&said(&line[2..], house.path()));
        }
        told.push_str("```\n");
        told.push_str(rest);
    }
    // Backslashes have to stay: the page is no list of paths.
    if std::env::var("SNAPSHOTS").is_ok_and(|mode| mode == "overwrite") {
        fs::write(&path, told).unwrap();
    } else {
        assert_eq!(told, text, "SNAPSHOTS=overwrite writes the page anew");
    }
}

/// What a command of the tutorial says: first what goes to standard output, then the rest.
fn said(command: &str, folder: &Path) -> String {
    // What stands in quotes is one word.
    let parts = command.split('\'').enumerate();
    let words = parts.flat_map(
        |(number, part)| if number % 2 == 1 { vec![part] } else { part.split_whitespace().collect() },
    );
    let words: Vec<&str> = words.collect();
    match words.as_slice() {
        ["corvant", arguments @ ..] => {
            let outcome = run(arguments, folder);
            let status = if outcome.status == 0 {
                String::new()
            } else {
                format!("[exit status {}]\n", outcome.status)
            };
            [outcome.stdout, outcome.stderr, status].concat()
        }
        ["head", number, file] => {
            let text = fs::read_to_string(folder.join(file)).unwrap();
            let number: usize = number.trim_start_matches('-').parse().unwrap();
            text.lines().take(number).map(|line| format!("{line}\n")).collect()
        }
        _ => panic!("nobody knows {command}"),
    }
}

/// Three files of a language, in which types are handed to a yard; two of three are built from the third, as `NEED` says.
fn registering(
    ending: &str,
    head: &str,
    class: &str,
    need: &str,
    call: &str,
    tail: &str,
) -> tempfile::TempDir {
    let folder = folder(&[]);
    for (number, area) in ["depot", "signals", "crew"].iter().enumerate() {
        let mut text = head.replace("AREA", area);
        for name in ["Gate", "Lamp", "Desk"] {
            let need =
                if name == "Gate" { String::new() } else { need.replace("GATE", &format!("Gate{number}")) };
            text += &class.replace("NAME", &format!("{name}{number}")).replace("NEED", &need);
        }
        text += tail.split_once("CALLS").unwrap().0;
        for name in ["Gate", "Lamp", "Desk"] {
            text += &call.replace("NAME", &format!("{name}{number}"));
        }
        text += tail.split_once("CALLS").unwrap().1;
        write(folder.path(), &format!("src/{area}/Start.{ending}"), text.as_bytes()).unwrap();
    }
    folder
}

#[rstest]
#[case::java(
    "java",
    "package velmora.AREA;\n",
    "interface INAME {}\nclass NAME implements INAME { NAME(NEED) {} }\n",
    "GATE gate",
    "yard.park(INAME.class, NAME.class);\n",
    "class Start { void fill(Yard yard) {\nCALLS}}\n",
    "yard.park($CONTRACT.class, $TYPE.class)"
)]
#[case::kotlin(
    "kt",
    "package velmora.AREA\n",
    "interface INAME\nclass NAME(NEED) : INAME\n",
    "gate: GATE",
    "yard.park(\"NAME\", NAME::class)\n",
    "fun fill(yard: Yard) {\nCALLS}\n",
    "yard.park($ID, $TYPE::class)"
)]
#[case::c_sharp(
    "cs",
    "namespace Velmora.AREA;\n",
    "public interface INAME {}\npublic class NAME : INAME { public NAME(NEED) {} }\n",
    "GATE gate",
    "office.Post<INAME, NAME>();\n",
    "class Start { void Fill(Office office) {\nCALLS}}\n",
    "office.Post<$CONTRACT, $TYPE>()"
)]
#[case::php(
    "php",
    "<?php\nnamespace Velmora\\AREA;\n",
    "interface INAME {}\nclass NAME implements INAME { public function __construct(NEED) {} }\n",
    "GATE $gate",
    "$yard->park(NAME::class, INAME::class);\n",
    "function fill($yard) {\nCALLS}\n",
    "$yard->park($TYPE::class, $CONTRACT::class)"
)]
#[case::typescript(
    "ts",
    "",
    "export class NAME { constructor(NEED) {} }\n",
    "gate: GATE",
    "board.pin('NAME', NAME);\n",
    "export function fill(board: Board) {\nCALLS}\n",
    "board.pin($ID, $TYPE)"
)]
#[case::python(
    "py",
    "",
    "class NAME:\n    def __init__(selfNEED):\n        pass\n",
    ", gate: GATE",
    "    ledger.enter(NAME)\n",
    "def fill(ledger):\nCALLS\n",
    "ledger.enter($TYPE)"
)]
fn calls_that_hand_types_over_in_many_files_are_drafted(
    #[case] ending: &str,
    #[case] head: &str,
    #[case] class: &str,
    #[case] need: &str,
    #[case] call: &str,
    #[case] tail: &str,
    #[case] pattern: &str,
) {
    let folder = registering(ending, head, class, need, call, tail);
    let draft = run(&["start", "--output", "-"], folder.path());
    assert_eq!(draft.status, 0, "{draft:?}");
    assert!(draft.stdout.contains(pattern), "{}", draft.stdout);
    assert!(draft.stdout.contains("# 9 calls in 3 files"), "{}", draft.stdout);
    assert!(!draft.stdout.contains("not described"), "{}", draft.stdout);
    assert_eq!(run(&["start", "--write"], folder.path()).status, 0);
    let report = run(&["audit", "--format", "json", "--fail-on", "never"], folder.path()).json();
    assert_eq!(report["summary"]["services"], 9, "{}", draft.stdout);
}

/// What stands in an expression looks something up; what names nothing that is declared says nothing, nor do types that are
/// neither built from one another nor handed over with what they are, as failures are that are refused in many tests.
#[rstest]
#[case::looked_up("GATE gate", "NAME x = yard.fetch(NAME.class);\n")]
#[case::not_declared("GATE gate", "yard.park(NAMEOfOthers.class);\n")]
#[case::in_a_comment("GATE gate", "// yard.park(NAME.class);\n")]
#[case::of_each_its_own("", "yard.refuse(NAME.class);\n")]
fn other_calls_are_not_taken_for_registrations(#[case] need: &str, #[case] call: &str) {
    let folder = registering(
        "java",
        "package velmora.AREA;\n",
        "class NAME { NAME(NEED) {} }\n",
        need,
        call,
        "class Start { void fill(Yard yard) {\nCALLS}}\n",
    );
    assert_eq!(run(&["start"], folder.path()).status, 2);
}

#[test]
fn marks_of_classes_that_are_built_from_one_another_are_drafted() {
    let folder = folder(&[]);
    let mut before = String::new();
    for area in ["depot", "signals", "crew"] {
        let mut text = format!("package velmora.{area};\nimport velmora.kit.Carried;\n");
        for name in ["Gate", "Lamp"] {
            let own = format!("{}{name}", area.to_uppercase());
            let needs = if before.is_empty() { String::new() } else { format!("{before} other") };
            let class = format!("@Carried @Deprecated class {own} {{ {own}({needs}) {{}} }}\n");
            text += &class;
            before = format!("velmora.{area}.{own}");
        }
        write(folder.path(), &format!("{area}/Parts.java"), text.as_bytes()).unwrap();
    }
    let draft = run(&["start", "--output", "-"], folder.path());
    assert!(draft.stdout.contains("marked = \"velmora.kit.Carried\""), "{draft:?}");
    assert!(draft.stdout.contains("# 6 classes in 3 files"), "{draft:?}");
    assert_eq!(run(&["start", "--write"], folder.path()).status, 0);
    let report = run(&["audit", "--format", "json", "--fail-on", "never"], folder.path()).json();
    assert_eq!((&report["summary"]["services"], &report["summary"]["errors"]), (&6.into(), &0.into()));
}
