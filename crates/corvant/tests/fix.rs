//! `corvant fix`: what it shows, what it writes, and what it leaves as it is.

mod support;

use rstest::rstest;
use std::fs;
use std::path::Path;
use std::process::Command;
use support::{folder, program, run};

const DEPOT: &str = "corvant: 1\nmodule: depot\nservices:\n  depot.gate: { needs: { yard: { service: depot.yrad } } }\n  depot.yard: {}\nentries:\n  open-gate: { needs: { gate: { service: depot.gate } } }\n";
const MENDED: &str = "corvant: 1\nmodule: depot\nservices:\n  depot.gate: { needs: { yard: { service: depot.yard } } }\n  depot.yard: {}\nentries:\n  open-gate: { needs: { gate: { service: depot.gate } } }\n";
/// A cycle, of which only a likely edit is known.
const CYCLE: &str = "corvant: 1\nmodule: signals\nservices:\n  signals.a: { needs: { b: { service: signals.b } } }\n  signals.b: { needs: { a: { service: signals.a } } }\nentries:\n  go: { needs: { a: { service: signals.a } } }\n";

fn text(folder: &Path, path: &str) -> String {
    fs::read_to_string(folder.join(path)).unwrap()
}

#[test]
fn what_it_would_change_is_shown_and_nothing_is_written() {
    let folder = folder(&[("depot.wiring.yaml", DEPOT), ("signals.wiring.yaml", CYCLE)]);
    let outcome = run(&["fix"], folder.path());
    assert_eq!(outcome.status, 1);
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/fix.patch"]);
    snapbox::assert_data_eq!(outcome.stderr, snapbox::file!["expected/fix.stderr"]);
    assert_eq!(text(folder.path(), "depot.wiring.yaml"), DEPOT);
    let quiet = run(&["fix", "--quiet"], folder.path());
    assert_eq!((quiet.status, quiet.stdout.as_str(), quiet.stderr.as_str()), (1, "", ""));
}

/// The patch is taken by the version-control program, and makes what `--write` makes.
#[rstest]
#[case::plain("", "\n", "")]
#[case::carriage_returns("", "\r\n", "")]
#[case::byte_order_mark("\u{feff}", "\n", "")]
#[case::no_final_line_end("", "\n", "\n")]
#[case::all("\u{feff}", "\r\n", "\n")]
fn patches_and_writing_come_to_the_same(#[case] mark: &str, #[case] line: &str, #[case] cut: &str) {
    let written = |text: &str| {
        let text = text.strip_suffix(cut).unwrap_or(text);
        format!("{mark}{}", text.replace('\n', line))
    };
    let name = "a b/depot \u{e9}.wiring.yaml";
    let (one, other) = (folder(&[(name, &written(DEPOT))]), folder(&[(name, &written(DEPOT))]));
    let patch = program().arg("fix").current_dir(one.path()).output().unwrap().stdout;
    let file = other.path().join("wiring.patch");
    fs::write(&file, patch).unwrap();
    // A byte-order mark is no part of the text that is read, but of the first line of the file.
    if mark.is_empty() {
        let apply = Command::new("git").args(["apply", "wiring.patch"]).current_dir(other.path()).status();
        assert!(apply.unwrap().success());
        assert_eq!(text(other.path(), name), written(MENDED));
    }
    let outcome = run(&["fix", "--write"], one.path());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    assert_eq!(text(one.path(), name), written(MENDED));
    assert!(outcome.stdout.contains("missing-service depot.yrad: write depot.yard"), "{outcome:?}");
    let again = run(&["fix", "--write"], one.path());
    assert_eq!((again.status, again.stdout.as_str()), (0, ""));
    assert!(again.stderr.starts_with("there is nothing to make\n"), "{again:?}");
}

#[test]
fn likely_edits_are_made_where_they_are_asked_for() {
    let folder = folder(&[("signals.wiring.yaml", CYCLE)]);
    let certain = run(&["fix", "--write"], folder.path());
    assert!(
        certain.stderr.contains("1 finding has a fix that is likely: see them with --likely"),
        "{certain:?}"
    );
    assert_eq!(text(folder.path(), "signals.wiring.yaml"), CYCLE);
    assert_eq!(run(&["audit"], folder.path()).status, 1);
    assert_eq!(run(&["fix", "--likely", "--write"], folder.path()).status, 0);
    assert_eq!(run(&["audit"], folder.path()).status, 0);
}

#[rstest]
#[case::by_rule(&["--rule", "missing-service"], &["depot.yard"], &["signals"])]
#[case::by_subject(&["--subject", "depot.signasl"], &["depot.signals"], &["yard }"])]
#[case::at_most_one(&["--limit", "1"], &[], &[])]
fn what_is_made_can_be_narrowed(#[case] options: &[&str], #[case] with: &[&str], #[case] without: &[&str]) {
    let two =
        DEPOT.replace("  depot.yard: {}\n", "  depot.yard: { needs: { s: { setting: depot.signasl } } }\n");
    let two = two.replace("services:", "settings: { depot.signals: 4 }\nservices:");
    let folder = folder(&[("depot.wiring.yaml", &two)]);
    let patch = run(&[&["fix"], options].concat(), folder.path()).stdout;
    let added: Vec<&str> = patch.lines().filter(|line| line.starts_with("+ ")).collect();
    assert_eq!(added.len(), 1, "{patch}");
    assert!(with.iter().all(|text| added[0].contains(text)), "{patch}");
    assert!(!without.iter().any(|text| added[0].contains(text)), "{patch}");
}

/// An edit that brings another finding is left out, and the others are made.
#[test]
fn what_would_bring_a_finding_is_left_out_and_named() {
    // With the misspelling gone the two would need each other.
    let hidden = CYCLE.replace("service: signals.a }", "service: signals.zone-a }");
    let hidden = hidden.replace("signals.a:", "signals.zone-aa:").replace(
        "go: { needs: { a: { service: signals.zone-a }",
        "go: { needs: { a: { service: signals.zone-aa }",
    );
    let folder = folder(&[("signals.wiring.yaml", &hidden), ("depot.wiring.yaml", DEPOT)]);
    let outcome = run(&["fix", "--write"], folder.path());
    assert_eq!(outcome.status, 0);
    assert_eq!(text(folder.path(), "depot.wiring.yaml"), MENDED);
    assert_eq!(text(folder.path(), "signals.wiring.yaml"), hidden);
    assert!(outcome.stderr.contains("but it would bring service-cycle"), "{outcome:?}");
}

#[cfg(unix)]
mod on_disk {
    use super::*;
    use std::os::unix::fs::{PermissionsExt, symlink};

    #[test]
    fn permissions_and_links_stay() {
        let folder = folder(&[("real/depot.yaml", DEPOT)]);
        let (real, link) = (folder.path().join("real/depot.yaml"), folder.path().join("depot.wiring.yaml"));
        symlink("real/depot.yaml", &link).unwrap();
        fs::set_permissions(&real, fs::Permissions::from_mode(0o640)).unwrap();
        assert_eq!(run(&["fix", "--write"], folder.path()).status, 0);
        assert!(link.is_symlink());
        assert_eq!(fs::read_to_string(&real).unwrap(), MENDED);
        assert_eq!(fs::metadata(&real).unwrap().permissions().mode() & 0o777, 0o640);
        let left: Vec<_> = fs::read_dir(folder.path()).unwrap().collect();
        assert_eq!(left.len(), 2, "nothing lies beside: {left:?}");
    }

    #[test]
    fn files_outside_are_left_alone() {
        let outside = folder(&[("depot.yaml", DEPOT)]);
        let folder = folder(&[("signals.wiring.yaml", &DEPOT.replace("depot", "signals"))]);
        let to = outside.path().join("depot.yaml");
        symlink(&to, folder.path().join("depot.wiring.yaml")).unwrap();
        let outcome = run(&["fix", "--write"], folder.path());
        assert_eq!(outcome.status, 0, "{outcome:?}");
        assert_eq!(fs::read_to_string(&to).unwrap(), DEPOT);
        assert!(outcome.stderr.contains("depot.wiring.yaml is left alone: it lies outside"), "{outcome:?}");
        assert_eq!(text(folder.path(), "signals.wiring.yaml"), MENDED.replace("depot", "signals"));
    }

    /// Also by who is allowed everything.
    #[test]
    fn read_only_files_are_left_alone() {
        let folder = folder(&[
            ("depot.wiring.yaml", DEPOT),
            ("signals.wiring.yaml", &DEPOT.replace("depot", "signals")),
        ]);
        let path = folder.path().join("depot.wiring.yaml");
        fs::set_permissions(&path, fs::Permissions::from_mode(0o444)).unwrap();
        let outcome = run(&["fix", "--write"], folder.path());
        assert_eq!(outcome.status, 0, "{outcome:?}");
        assert_eq!(text(folder.path(), "depot.wiring.yaml"), DEPOT);
        assert!(outcome.stderr.contains("depot.wiring.yaml is left alone"), "{outcome:?}");
        assert_eq!(text(folder.path(), "signals.wiring.yaml"), MENDED.replace("depot", "signals"));
    }

    /// Neither a report nor an allowance is written to what is read-only.
    #[test]
    fn what_is_read_only_is_written_by_no_command() {
        let folder = folder(&[
            ("depot.wiring.yaml", DEPOT),
            ("corvant.toml", "members = [\".\"]\n"),
            ("report.json", "{}\n"),
        ]);
        for name in ["corvant.toml", "report.json"] {
            fs::set_permissions(folder.path().join(name), fs::Permissions::from_mode(0o444)).unwrap();
        }
        for arguments in [&["accept"][..], &["audit", "--output", "report.json"]] {
            let outcome = run(arguments, folder.path());
            assert_eq!(outcome.status, 3, "{outcome:?}");
            assert!(outcome.stderr.contains("it is read-only"), "{outcome:?}");
        }
        assert_eq!(text(folder.path(), "corvant.toml"), "members = [\".\"]\n");
        assert_eq!(text(folder.path(), "report.json"), "{}\n");
    }
}

#[test]
fn files_of_custom_readers_are_edited_where_the_name_stands_as_it_is() {
    let toml = "[[reader]]\nname = \"objects\"\nfiles = [\"*.house.yaml\"]\nsyntax = \"yaml\"\nmodule = { constant = \"depot\" }\n[[reader.take]]\nwhat = \"service\"\neach = \"$.objects.*\"\nid = { key = true }\n[[reader.take.need]]\neach = \"$.with[*]\"\nservice = \"$\"\n";
    let files = [
        ("corvant.toml", toml),
        ("a.house.yaml", "objects:\n  gate: { with: [yrad] } # ours\n  yard: {}\n"),
        (
            "e.wiring.yaml",
            "corvant: 1\nmodule: web\nuses: [depot]\nentries:\n  open: { needs: { gate: { service: gate } } }\n",
        ),
    ];
    let folder = folder(&files);
    let outcome = run(&["fix", "--write"], folder.path());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    assert_eq!(text(folder.path(), "a.house.yaml"), files[1].1.replace("yrad", "yard"));
}
