//! `corvant audit` as its users call it.

mod support;

use rstest::rstest;
use std::fs;
use std::io::Read;
#[cfg(unix)]
use std::os::unix::fs::{PermissionsExt, symlink};
use std::process::{Command, Stdio};
use support::{CLEAN, FAULTY, Outcome, folder, outcome, program, run, write};

#[rstest]
#[case::clean(CLEAN, &[], 0)]
#[case::faulty(FAULTY, &[], 1)]
#[case::faulty_but_never(FAULTY, &["--fail-on", "never"], 0)]
#[case::warning_is_no_error("corvant: 1\nmodule: m\n", &[], 0)]
#[case::warning_fails_on_demand("corvant: 1\nmodule: m\n", &["--fail-on", "warning"], 1)]
#[case::note_fails_on_warning("corvant: 1\nmodule: m\n", &["--fail-on", "note"], 1)]
#[case::broken("a: [", &[], 1)]
fn the_exit_status_says_it_all(#[case] text: &str, #[case] options: &[&str], #[case] status: i32) {
    let folder = folder(&[("web.wiring.yaml", text)]);
    let outcome = run(&[&["audit", "--quiet"], options].concat(), folder.path());
    assert_eq!(outcome.status, status, "{outcome:#?}");
    assert_eq!((outcome.stdout.as_str(), outcome.stderr.as_str()), ("", ""));
}

/// What is kept changes nothing; a place that is named and cannot be is told, and nothing there is touched.
#[rstest]
#[case::elsewhere(&["--cache", "kept/here"], 1)]
#[case::nowhere(&["--no-cache"], 1)]
#[case::in_a_file(&["--cache", "web.wiring.yaml"], 3)]
#[case::both(&["--cache", "kept", "--no-cache"], 2)]
fn a_cache_changes_nothing(#[case] options: &[&str], #[case] status: i32) {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let plain = run(&["audit"], folder.path());
    let outcome = run(&[&["audit"], options].concat(), folder.path());
    assert_eq!(outcome.status, status, "{outcome:#?}");
    assert_eq!(outcome.stdout == plain.stdout, status == 1);
    assert_eq!(fs::read_to_string(folder.path().join("web.wiring.yaml")).unwrap(), FAULTY);
    let shown = run(&[&["show", "web"], options].concat(), folder.path());
    assert!(shown.status == status || status == 1, "{shown:#?}");
}

/// What is as it was when it was asked is not audited again, and nobody sees a difference.
#[cfg(unix)]
#[test]
fn what_has_not_changed_is_answered_at_once() {
    let folder = folder(&[
        ("web.wiring.yaml", FAULTY),
        ("old.wiring.json", "{\"corvant\": 1, \"module\": \"old\"}"),
        ("broken.wiring.yaml", "corvant: ["),
    ]);
    let kept = support::folder(&[]);
    let of = |call: &[&str]| {
        let cache = ["--cache", kept.path().to_str().unwrap()];
        run(&[&["audit"], call, &cache].concat(), folder.path())
    };
    let written = || -> Vec<_> {
        let files = fs::read_dir(kept.path()).unwrap().map(|file| file.unwrap());
        files.map(|file| (file.path(), file.metadata().unwrap().modified().unwrap())).collect()
    };
    let calls: [&[&str]; 7] = [
        &[],
        &["--format", "json"],
        &["--format", "sarif", "--fail-on", "never"],
        &["--limit", "0"],
        &["--color", "always"],
        &["--today", "2026-11-01"],
        &["--quiet"],
    ];
    assert_eq!(of(&[]).status, 1);
    assert_eq!(written(), [], "what was changed just now may change again");
    std::thread::sleep(std::time::Duration::from_millis(2_100));
    let fresh: Vec<Outcome> = calls.iter().map(|call| of(call)).collect();
    let first = written();
    assert_eq!(first.len(), calls.len());
    for (call, fresh) in calls.iter().zip(&fresh) {
        let again = of(call);
        assert_eq!(
            (again.status, &again.stdout, &again.stderr),
            (fresh.status, &fresh.stdout, &fresh.stderr)
        );
        let plain = run(&[&["audit", "--no-cache"], *call].concat(), folder.path());
        assert_eq!((again.status, again.stdout), (plain.status, plain.stdout));
    }
    assert_eq!(written(), first, "none was worked out again");
    // Files are written whenever they are asked for.
    for _ in 0..2 {
        of(&["--output", "report.json"]);
        fs::remove_file(folder.path().join("report.json")).unwrap();
    }
    write(folder.path(), "web.wiring.yaml", FAULTY.replace("web", "wab").as_bytes()).unwrap();
    assert!(of(&[]).stdout.contains("wab"), "what is there now counts");
    assert_eq!(of(&["--no-such-option"]).status, 2);
}

/// What cannot be read may be by the next time.
#[cfg(unix)]
#[test]
fn what_could_not_be_read_is_tried_again() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let too_large = fs::File::create(folder.path().join("old.wiring.yaml")).unwrap();
    too_large.set_len(513 << 20).unwrap();
    let kept = support::folder(&[]);
    let audit = || run(&["audit", "--cache", kept.path().to_str().unwrap()], folder.path());
    std::thread::sleep(std::time::Duration::from_millis(2_100));
    assert!(audit().stdout.contains("old.wiring.yaml could not be read"));
    assert_eq!(fs::read_dir(kept.path()).unwrap().count(), 0);
    fs::remove_file(folder.path().join("old.wiring.yaml")).unwrap();
    assert_eq!(audit().status, 1);
    assert_eq!(fs::read_dir(kept.path()).unwrap().count(), 1);
}

/// What is cut off as nobody listens any more is not given as the answer the next time.
#[cfg(unix)]
#[test]
fn half_an_answer_is_not_kept() {
    let folder = folder(&[]);
    for file in corvant_testing::corpus::corpus(2_000, false, 7) {
        write(folder.path(), &file.path, file.text.as_bytes()).unwrap();
    }
    let kept = support::folder(&[]);
    std::thread::sleep(std::time::Duration::from_millis(2_100));
    let line = format!(
        "{} audit --format html --cache {} | head -c 100",
        env!("CARGO_BIN_EXE_corvant"),
        kept.path().display()
    );
    let cut = outcome(assert_cmd::Command::new("sh").args(["-c", &line]).current_dir(folder.path()));
    assert_eq!(cut.stdout.len(), 100);
    let cache = kept.path().to_str().unwrap();
    let whole = run(&["audit", "--format", "html", "--cache", cache], folder.path());
    assert!(whole.stdout.len() > 100_000);
    assert_eq!(fs::read_dir(kept.path()).unwrap().count(), 1);
    let again = run(&["audit", "--format", "html", "--cache", cache], folder.path());
    assert_eq!(again.stdout, whole.stdout);
}

#[rstest]
#[case::no_such_folder(&["audit", "nowhere"], "nowhere is not a folder that can be read: no such file")]
#[case::a_file(&["audit", "notes.txt"], "notes.txt is not a folder that can be read: not a directory")]
#[case::nothing_to_audit(&["audit"], "no manifest was found below .")]
#[case::unknown_option(&["audit", "--quite"], "--quiet")]
#[case::unknown_command(&["adit"], "audit")]
fn a_wrong_call_is_status_2_and_says_why(#[case] arguments: &[&str], #[case] message: &str) {
    let folder = folder(&[("notes.txt", "x")]);
    let outcome = run(arguments, folder.path());
    assert_eq!(outcome.status, 2, "{outcome:#?}");
    assert!(outcome.stderr.contains(message), "{}", outcome.stderr);
    assert_eq!(outcome.stdout, "");
}

#[test]
fn the_text_report_is_whole_and_plain_in_a_pipe() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let outcome = run(&["audit"], folder.path());
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/audit.txt"]);
    assert_eq!(outcome.stderr, "");
}

#[test]
fn the_json_report_is_whole() {
    let folder = folder(&[("web.wiring.yaml", FAULTY), ("broken.wiring.yaml", "a: [")]);
    let outcome = run(&["audit", "--format", "json"], folder.path());
    snapbox::assert_data_eq!(outcome.stdout, snapbox::file!["expected/audit.json"]);
}

#[test]
fn colour_is_for_terminals_unless_asked_for() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let has_color =
        |options: &[&str]| run(&[&["audit"], options].concat(), folder.path()).stdout.contains('\u{1b}');
    assert!(!has_color(&[]));
    assert!(has_color(&["--color", "always"]));
    assert!(!has_color(&["--color", "never"]));
}

#[test]
fn lines_fit_into_the_columns_that_are_asked_for() {
    let manifest = "corvant: 1\nmodule: web\nservices:\n  web.map: { needs: { me: { service: web.plan } } }\n  web.plan: { needs: { me: { service: web.map } } }\nentries:\n  map: { needs: { map: { service: web.map } } }\n";
    let folder = folder(&[("modules/web/maps/web.wiring.yaml", manifest)]);
    let mut command = program();
    let outcome = outcome(command.env("COLUMNS", "60").arg("audit").current_dir(folder.path()));
    // An address stays on one line with its role, so that it can be jumped to.
    let lines = outcome.stdout.lines().filter(|line| !line.starts_with("    modules/"));
    let longest = lines.map(|line| line.chars().count()).max();
    assert!(longest <= Some(62), "{}", outcome.stdout);
    assert!(run(&["audit"], folder.path()).stdout.lines().any(|line| line.chars().count() > 100));
}

#[test]
fn the_report_goes_to_a_file_on_demand() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let printed = run(&["audit", "--format", "json"], folder.path()).stdout;
    let outcome = run(&["audit", "--format", "json", "--output", "report.json"], folder.path());
    assert_eq!((outcome.status, outcome.stdout.as_str()), (1, printed.as_str()), "besides, not instead");
    assert_eq!(fs::read_to_string(folder.path().join("report.json")).unwrap(), printed);
    let outcome = run(&["audit", "--output", "no/such/folder/report"], folder.path());
    assert_eq!(outcome.status, 3, "{outcome:#?}");
    assert!(outcome.stderr.contains("no/such/folder/report cannot be written"), "{}", outcome.stderr);
}

#[test]
fn a_pipe_that_closes_early_is_no_failure() {
    let manifests: String = (0..20_000).map(|number| format!("f{number}: 1\n")).collect();
    let folder = folder(&[("web.wiring.yaml", &manifests)]);
    let mut child = Command::new(env!("CARGO_BIN_EXE_corvant"))
        .arg("audit")
        .current_dir(folder.path())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let mut first = [0; 64];
    child.stdout.take().unwrap().read_exact(&mut first).unwrap();
    let mut complaint = String::new();
    child.stderr.take().unwrap().read_to_string(&mut complaint).unwrap();
    assert_eq!(child.wait().unwrap().code(), Some(1));
    assert_eq!(complaint, "");
}

#[test]
fn one_stage_can_be_chosen_and_must_exist() {
    let text = "corvant: 1\nmodule: web\nservices:\n  web.tiles: { stages: [production, rehearsal] }\nentries:\n  map: { needs: { tiles: { service: web.tiles } } }\n";
    let folder = folder(&[("web.wiring.yaml", text)]);
    assert_eq!(run(&["audit", "--stage", "production"], folder.path()).status, 0);
    let all = run(&["audit", "--format", "json"], folder.path()).json();
    let holds = serde_json::json!({ "stages": [], "none_chosen": true });
    assert_eq!(all["findings"][0]["holds"], holds, "it holds where no stage is chosen");
    let always = "policy.stage-required = true\n";
    let always_staged = crate::folder(&[("web.wiring.yaml", text), ("corvant.toml", always)]);
    assert_eq!(run(&["audit"], always_staged.path()).status, 0, "some stage is always chosen");
    let wrong = run(&["audit", "--stage", "productoin"], folder.path());
    assert_eq!(wrong.status, 2);
    assert!(wrong.stderr.contains("the stages here are production, rehearsal"), "{}", wrong.stderr);
}

#[test]
fn allowances_accept_until_their_last_day() {
    let text = "corvant: 1\nmodule: web\nservices: { web.old: {} }\nallow: [{ rule: unused-service, subject: web.old, reason: going, until: 2027-04-30 }]\nentries: { e: {} }\n";
    let folder = folder(&[("web.wiring.yaml", text)]);
    let audit = |day: &str| run(&["audit", "--fail-on", "warning", "--today", day], folder.path());
    let before = audit("2027-04-30");
    assert_eq!(before.status, 0, "{before:#?}");
    assert!(before.stdout.contains("1 finding is accepted by allowances and not shown"), "{}", before.stdout);
    let after = audit("2027-05-01");
    assert_eq!(after.status, 1);
    assert!(after.stdout.contains("stale-allowance: unused-service web.old"), "{}", after.stdout);
    assert_eq!(audit("1st of May").status, 2);
}

#[test]
#[cfg(unix)]
fn links_in_a_cycle_are_a_note_and_nothing_is_read_twice() {
    let folder = folder(&[("modules/web/web.wiring.yaml", CLEAN)]);
    symlink(folder.path(), folder.path().join("modules/web/root")).unwrap();
    symlink(folder.path().join("modules"), folder.path().join("again")).unwrap();
    let outcome = run(&["audit", "--format", "json"], folder.path());
    assert_eq!(outcome.status, 0, "{outcome:#?}");
    let report = outcome.json();
    assert_eq!(report["summary"]["manifests"], 1);
    for finding in report["findings"].as_array().unwrap() {
        assert_eq!(
            (finding["rule"].as_str(), finding["severity"].as_str()),
            (Some("unreadable-file"), Some("note"))
        );
    }
    assert!(report["summary"]["notes"].as_u64() > Some(0));
}

#[test]
#[cfg(unix)]
fn folders_and_files_that_cannot_be_opened_are_findings() {
    let folder =
        folder(&[("web.wiring.yaml", FAULTY), ("locked/a.wiring.yaml", CLEAN), ("b.wiring.yaml", CLEAN)]);
    let deny = |path: &str| {
        fs::set_permissions(folder.path().join(path), fs::Permissions::from_mode(0o000)).unwrap();
    };
    deny("locked");
    deny("b.wiring.yaml");
    fs::set_permissions(folder.path(), fs::Permissions::from_mode(0o755)).unwrap();
    // Whoever runs the tests as root may open everything: the program then runs as nobody.
    let is_root = fs::read_dir(folder.path().join("locked")).is_ok();
    let program = tempfile::Builder::new().permissions(fs::Permissions::from_mode(0o755)).tempdir().unwrap();
    let copy = program.path().join("corvant");
    fs::copy(env!("CARGO_BIN_EXE_corvant"), &copy).unwrap();
    let mut command = Command::new(copy);
    if is_root {
        std::os::unix::process::CommandExt::uid(&mut command, 65_534);
    }
    command.args(["audit", "--format", "json"]).current_dir(folder.path());
    let outcome = outcome(&mut assert_cmd::Command::from_std(command));
    fs::set_permissions(folder.path().join("locked"), fs::Permissions::from_mode(0o755)).unwrap();
    let mut subjects = outcome.subjects();
    subjects.sort();
    let expected = [
        ("missing-service", "web.tiles"),
        ("unreadable-file", "b.wiring.yaml"),
        ("unreadable-file", "locked"),
    ];
    assert_eq!(subjects, expected.map(|(rule, subject)| (rule.to_owned(), subject.to_owned())));
    assert!(outcome.stdout.contains("locked could not be read: permission denied"), "{}", outcome.stdout);
}

#[test]
#[cfg(unix)]
fn a_pipe_with_the_name_of_a_manifest_is_not_waited_for() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let made = Command::new("mkfifo").arg(folder.path().join("pipe.wiring.yaml")).status().unwrap();
    assert!(made.success());
    let outcome = run(&["audit", "--format", "json"], folder.path());
    assert!(
        outcome.subjects().contains(&("unreadable-file".into(), "pipe.wiring.yaml".into())),
        "{outcome:#?}"
    );
}

#[test]
fn help_has_examples_and_the_version_is_told() {
    let folder = folder(&[]);
    for arguments in [&["--help"][..], &["audit", "--help"], &["demo", "--help"]] {
        let outcome = run(arguments, folder.path());
        assert_eq!(outcome.status, 0);
        assert!(outcome.stdout.contains("Examples:\n  corvant "), "{}", outcome.stdout);
    }
    let version = outcome(program().arg("--version"));
    assert_eq!(version.stdout, format!("corvant {}\n", env!("CARGO_PKG_VERSION")));
}

#[test]
fn threads_and_the_order_of_files_never_change_a_byte() {
    let folder = folder(&[]);
    for file in corvant_testing::corpus::corpus(10_000, true, 7) {
        write(folder.path(), &file.path, file.text.as_bytes()).unwrap();
    }
    let with_threads = |threads: &str| {
        let mut command = program();
        let command = command.env("RAYON_NUM_THREADS", threads).current_dir(folder.path());
        outcome(command.args(["audit", "--format", "json", "--no-cache"])).stdout
    };
    let first = with_threads("1");
    assert!(first.len() > 10_000);
    for threads in ["2", "8"] {
        assert!(with_threads(threads) == first, "{threads} threads change the report");
    }
}
