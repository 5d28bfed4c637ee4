//! Files that are no files, names and texts made to do harm, and many at once: the program ends, says so, and neither
//! loses nor lets out anything.
#![cfg(unix)]

mod support;

use assert_cmd::cargo::CommandCargoExt;
use corvant_testing::hostile::harmful;
use rstest::rstest;
use std::ffi::OsStr;
use std::fs;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::path::Path;
use std::process::{Command, Stdio};
use std::thread::sleep;
use std::time::{Duration, Instant};
use support::{CLEAN, FAULTY, folder, outcome, program, run, write};

/// A short run over hostile workspaces of every kind; `cargo xtask hostile` makes as many as anybody has time for.
#[rstest]
#[case(0)]
#[case(1)]
fn hostile_workspaces_are_withstood(#[case] start: u64) {
    let program = Path::new(env!("CARGO_BIN_EXE_corvant"));
    let mut wrong = Vec::new();
    for round in (start..130).step_by(2) {
        let folder = tempfile::tempdir().unwrap();
        wrong.extend(corvant_testing::hostile::attack(program, folder.path(), round).unwrap());
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// What a shell makes of a line.
fn shell(line: &str, folder: &Path) {
    let status = Command::new("sh").arg("-c").arg(line).current_dir(folder).status().unwrap();
    assert!(status.success(), "{line}");
}

/// Whether nothing in a text is acted on by what shows it.
fn is_harmless(text: &str) -> bool {
    harmful(text, false).is_none()
}

#[rstest]
#[case::ignore_file_is_a_pipe("mkfifo .gitignore")]
#[case::ignore_file_is_a_device("ln -s /dev/zero .ignore")]
#[case::ignore_file_of_the_kernel("ln -s /proc/kmsg .gitignore")]
#[case::ignore_file_above_is_a_pipe("mkfifo ../.gitignore")]
#[case::manifest_is_a_pipe("mkfifo a.wiring.yaml")]
#[case::manifest_is_a_device("ln -s /dev/zero a.wiring.json")]
#[case::manifest_of_the_kernel("ln -s /proc/kmsg a.wiring.toml")]
#[case::manifest_without_end("truncate -s 5G a.wiring.yaml")]
#[case::archive_without_end("truncate -s 5G a.jar")]
#[case::archive_of_nothing("truncate -s 3G a.jar")]
#[case::archive_is_a_pipe("mkfifo a.jar")]
#[case::folder_of_an_ignore_file("mkdir .gitignore")]
fn what_is_no_file_is_not_waited_for_and_the_rest_is_audited(#[case] make: &str) {
    let folder = folder(&[("in/web.wiring.yaml", FAULTY)]);
    let root = folder.path().join("in");
    shell(make, &root);
    let begun = Instant::now();
    let outcome = run(&["audit", "--format", "json"], &root);
    assert!(begun.elapsed() < Duration::from_secs(20), "{:?}", begun.elapsed());
    assert_eq!(outcome.status, 1, "{outcome:#?}");
    assert!(outcome.subjects().contains(&("missing-service".into(), "web.tiles".into())), "{outcome:#?}");
}

#[rstest]
#[case::pipe("mkfifo corvant.toml", "it is no regular file")]
#[case::device("ln -s /dev/zero corvant.toml", "it is no regular file")]
#[case::of_the_kernel("ln -s /proc/kmsg corvant.toml", "")]
#[case::without_end("truncate -s 5G corvant.toml", "it is larger than 512 MiB")]
fn a_workspace_file_that_is_none_is_an_error_at_once(#[case] make: &str, #[case] why: &str) {
    let folder = folder(&[("web.wiring.yaml", CLEAN)]);
    shell(make, folder.path());
    for command in ["audit", "accept"] {
        let outcome = run(&[command], folder.path());
        assert_eq!(outcome.status, 2, "{outcome:#?}");
        assert!(outcome.stderr.contains("corvant.toml") && outcome.stderr.contains(why), "{outcome:#?}");
    }
}

#[test]
fn manifests_whose_names_are_no_text_are_all_read() {
    let folder = folder(&[]);
    for (name, module) in [(b"\xfe.wiring.yaml", "one"), (b"\xff.wiring.yaml", "two")] {
        let text = FAULTY.replace("web", module).replace("map", module);
        fs::write(folder.path().join(OsStr::from_bytes(name)), text).unwrap();
    }
    let outcome = run(&["audit", "--format", "json"], folder.path());
    let mut subjects: Vec<String> = outcome.subjects().into_iter().map(|(_, subject)| subject).collect();
    subjects.sort();
    assert_eq!(subjects, ["one.tiles", "two.tiles"]);
    assert!(outcome.stdout.contains("\\\\xff.wiring.yaml"), "{}", outcome.stdout);
}

#[test]
fn a_bundle_gets_nothing_out_of_what_lies_outside() {
    let folder = folder(&[
        ("secret.txt", "the word of the day\n"),
        (
            "in/META-INF/MANIFEST.MF",
            "Bundle-SymbolicName: velmora.in\nService-Component: ../secret.txt, /../secret.txt, ../*.txt, x/../../secret.txt\n",
        ),
        ("in/web.wiring.yaml", CLEAN),
    ]);
    let outcome = run(&["audit"], &folder.path().join("in"));
    assert_eq!(outcome.status, 1, "{outcome:#?}");
    assert!(outcome.stdout.contains("../secret.txt, which lies outside of it"), "{}", outcome.stdout);
    assert!(!outcome.stdout.contains("the word of the day"), "{}", outcome.stdout);
}

/// Names with everything in them that a terminal acts on.
const NASTY: &str = "corvant: 1\nmodule: \"m\\e[2J\"\nservices:\n  \"s\\x9b31m\": { type: \"T\\e]0;x\\a\", stages: [\"drill\\e[1m\", \"night\\u202e\"] }\n  \"a\\u202eb\": { needs: { \"n\\e\": { service: \"s\\x9b31m\" } }, tags: [\"t\\u2028\"] }\n  \"c\\U000e0041\": { needs: { x: { service: \"a\\u202eb\" }, y: { contract: \"C\\x7f\" } } }\nentries:\n  \"e\\r\": { at: \"GET \\u061c\", needs: { x: { service: \"c\\U000e0041\" } } }\n";

#[rstest]
#[case(&["audit"])]
#[case(&["audit", "--format", "json"])]
#[case(&["audit", "--explain-readers"])]
#[case(&["audit", "--explain-readers", "--format", "json"])]
#[case(&["audit", "--stage", "drill"])]
#[case(&["accept", "--dry-run"])]
#[case(&["show", "a\u{202e}b"])]
#[case(&["show", "a\u{202e}b", "--format", "json"])]
#[case(&["show", "ab"])]
#[case(&["find", "s", "--format", "json"])]
#[case(&["find", "s"])]
#[case(&["why", "e\r", "s\u{9b}31m"])]
#[case(&["why", "e\r", "s\u{9b}31m", "--format", "json"])]
#[case(&["why", "c\u{e0041}", "e\r"])]
#[case(&["order"])]
#[case(&["order", "e"])]
#[case(&["impact", "s\u{9b}31m"])]
#[case(&["impact", "s\u{9b}31m", "--format", "json"])]
#[case(&["graph"])]
#[case(&["graph", "--format", "svg"])]
#[case(&["graph", "--format", "dot"])]
#[case(&["graph", "--format", "mermaid"])]
#[case(&["graph", "--format", "graphml"])]
#[case(&["graph", "--format", "json"])]
fn nothing_that_a_terminal_would_act_on_gets_out(#[case] arguments: &[&str]) {
    let folder = folder(&[("a.wiring.yaml", NASTY)]);
    let outcome = run(arguments, folder.path());
    assert!(outcome.status <= 2, "{outcome:?}");
    assert!(is_harmless(&outcome.stdout), "{:?}", outcome.stdout);
    assert!(is_harmless(&outcome.stderr), "{:?}", outcome.stderr);
    assert!(outcome.stdout.len() + outcome.stderr.len() > 10, "something is said");
}

#[rstest]
#[case::names(&["show", "s"], "s.harmless")]
#[case::stages(&["show", "s.harmless", "--stage", ""], "calm")]
fn names_that_a_shell_would_act_on_are_not_offered(#[case] words: &[&str], #[case] expected: &str) {
    let text = NASTY.replace("entries:", "  s.harmless: { stages: [calm] }\nentries:");
    let folder = folder(&[("a.wiring.yaml", &text)]);
    let mut command = program();
    command.env("CORVANT_COMPLETE", "bash").env("_CLAP_COMPLETE_INDEX", words.len().to_string());
    command.env("RAYON_NUM_THREADS", "100000");
    command.env("_CLAP_IFS", "\n").args(["--", "corvant"]).args(words).current_dir(folder.path());
    let outcome = outcome(&mut command);
    assert_eq!(outcome.stdout.lines().collect::<Vec<_>>(), [expected], "{outcome:?}");
}

#[rstest]
#[case::mistake("[[reader]]\nname = \"r\\u001b[2J\"\nfiles = [\"*.x\"]\nsyntax = \"yaml\\u009b\"\n")]
#[case::bad_glob("[workspace]\nmembers = [\"a\\u202e[\"]\n")]
#[case::rivals(
    "[[reader]]\nname = \"r\\u001b[2J\"\nfiles = [\"*.wiring.yaml\"]\nsyntax = \"yaml\"\nmodule = \"m\"\n[[reader.take]]\nwhat = \"service\"\neach = \"$\"\nid = \"$.id\"\n"
)]
fn mistakes_in_the_workspace_file_are_told_harmlessly(#[case] text: &str) {
    let folder = folder(&[("corvant.toml", text), ("a.wiring.yaml", CLEAN)]);
    let outcome = run(&["audit"], folder.path());
    assert!(is_harmless(&outcome.stdout) && is_harmless(&outcome.stderr), "{outcome:?}");
    assert!(outcome.stdout.contains("\\u{") || outcome.stderr.contains("\\u{"), "{outcome:?}");
}

#[test]
fn json_is_read_back_as_it_was_written() {
    let folder = folder(&[("a.wiring.yaml", NASTY)]);
    let outcome = run(&["find", "a\u{202e}b", "--whole", "--format", "json"], folder.path());
    assert_eq!(outcome.json()["mentions"][0]["name"], "a\u{202e}b");
}

/// A workspace with two findings to accept.
const TO_ACCEPT: &str =
    "corvant: 1\nmodule: web\nservices: { web.old: {}, web.older: {} }\nentries: { e: {} }\n";

#[test]
fn accepting_leaves_every_other_byte_as_it_is() {
    let before = "\u{feff}# our rules\r\n\r\n[rules] # strict\r\nunused-use = \"off\"\r\n";
    let folder = folder(&[("web.wiring.yaml", TO_ACCEPT), ("real/corvant.toml", before)]);
    let path = folder.path().join("real/corvant.toml");
    symlink("real/corvant.toml", folder.path().join("corvant.toml")).unwrap();
    fs::set_permissions(&path, fs::Permissions::from_mode(0o640)).unwrap();
    let outcome = run(&["accept", "--reason", "going"], folder.path());
    assert_eq!(outcome.status, 0, "{outcome:#?}");
    let after = fs::read_to_string(&path).unwrap();
    let added = after.strip_prefix(before).expect("what was there is there");
    assert_eq!(added.matches("\r\n").count(), added.matches('\n').count(), "{added:?}");
    assert_eq!(added.matches("[[allow]]").count(), 2, "{added:?}");
    assert_eq!(fs::metadata(&path).unwrap().mode() & 0o777, 0o640);
    assert!(folder.path().join("corvant.toml").is_symlink());
    assert_eq!(run(&["audit", "--fail-on", "note"], folder.path()).status, 0);
    let left: Vec<_> = fs::read_dir(folder.path().join("real")).unwrap().collect();
    assert_eq!(left.len(), 1, "nothing is left beside it: {left:?}");
}

#[test]
fn several_who_accept_at_once_lose_nothing() {
    for round in 0..12 {
        let before = format!("# round {round}\n");
        let folder = folder(&[("corvant.toml", before.as_str())]);
        for one in 0..4 {
            let text = format!(
                "corvant: 1\nmodule: m{one}\nservices: {{ m{one}.old: {{}} }}\nentries: {{ e{one}: {{}} }}\n"
            );
            write(folder.path(), &format!("m{one}.wiring.yaml"), text.as_bytes()).unwrap();
        }
        let started: Vec<_> = (0..4)
            .map(|one| {
                let mut command = Command::cargo_bin("corvant").unwrap();
                let command =
                    command.args(["accept", "--reason", &format!("by {one}")]).current_dir(folder.path());
                command.stderr(Stdio::null()).spawn().unwrap()
            })
            .collect();
        for mut child in started {
            assert_eq!(child.wait().unwrap().code(), Some(0));
        }
        let after = fs::read_to_string(folder.path().join("corvant.toml")).unwrap();
        assert!(after.starts_with(&before), "{after}");
        // Each is accepted once, no matter which came first.
        assert_eq!(after.matches("[[allow]]").count(), 4, "{after}");
    }
}

#[test]
fn a_kill_leaves_the_old_file_or_the_new_one() {
    let many: String = (0..2_000).map(|one| format!("  web.old-{one}: {{}}\n")).collect();
    let text = format!("corvant: 1\nmodule: web\nservices:\n{many}entries: {{ e: {{}} }}\n");
    for delay in 0..20 {
        let folder = folder(&[("corvant.toml", "# ours\n"), ("web.wiring.yaml", &text)]);
        let mut command = Command::cargo_bin("corvant").unwrap();
        let mut child =
            command.arg("accept").current_dir(folder.path()).stderr(Stdio::null()).spawn().unwrap();
        sleep(Duration::from_millis(delay * 4));
        let _ = child.kill();
        child.wait().unwrap();
        let after = fs::read_to_string(folder.path().join("corvant.toml")).unwrap();
        let is_whole = after == "# ours\n" || after.matches("[[allow]]").count() == 2_000;
        assert!(is_whole && after.starts_with("# ours\n"), "{} bytes after {delay}", after.len());
    }
}

#[test]
fn a_full_disk_leaves_the_old_file() {
    let many: String = (0..2_000).map(|one| format!("  web.old-{one}: {{}}\n")).collect();
    let text = format!("corvant: 1\nmodule: web\nservices:\n{many}entries: {{ e: {{}} }}\n");
    let folder =
        folder(&[("corvant.toml", "# ours\n"), ("web.wiring.yaml", &text), ("report.txt", "older\n")]);
    // No file may grow past some blocks: it is as if the disk were full.
    for call in ["accept", "audit --output report.txt"] {
        let line = format!("ulimit -f 8; trap '' XFSZ; exec {} {call}", env!("CARGO_BIN_EXE_corvant"));
        let outcome = outcome(assert_cmd::Command::new("sh").args(["-c", &line]).current_dir(folder.path()));
        assert_eq!(outcome.status, 3, "{outcome:?}");
        assert!(outcome.stderr.contains("cannot be written"), "{outcome:?}");
    }
    assert_eq!(fs::read_to_string(folder.path().join("corvant.toml")).unwrap(), "# ours\n");
    assert_eq!(fs::read_to_string(folder.path().join("report.txt")).unwrap(), "older\n");
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 3, "nothing is left beside them");
    assert_eq!(run(&["audit", "--output", "/dev/full"], folder.path()).status, 3);
}

#[test]
fn a_reason_that_says_nothing_is_refused() {
    let folder = folder(&[("web.wiring.yaml", TO_ACCEPT)]);
    for reason in ["", "  "] {
        let outcome = run(&["accept", "--reason", reason], folder.path());
        assert_eq!(outcome.status, 2, "{outcome:#?}");
    }
    assert!(!folder.path().join("corvant.toml").exists());
}

#[test]
fn a_result_never_replaces_what_it_is_made_from() {
    let folder = folder(&[("a/web.wiring.yaml", FAULTY), ("corvant.toml", "# ours\n"), ("real.txt", CLEAN)]);
    symlink(folder.path().join("real.txt"), folder.path().join("linked.wiring.yaml")).unwrap();
    for output in ["a/web.wiring.yaml", "a/../corvant.toml", "real.txt", "linked.wiring.yaml"] {
        let before = fs::read(folder.path().join(output)).unwrap();
        for command in [&["audit"][..], &["show", "web.tiles"], &["graph"], &["audit", "--explain-readers"]] {
            let outcome = run(&[command, &["--output", output]].concat(), folder.path());
            assert_eq!(outcome.status, 2, "{command:?} {output}: {outcome:#?}");
            assert!(outcome.stderr.contains("which the result is made from"), "{outcome:#?}");
        }
        assert_eq!(fs::read(folder.path().join(output)).unwrap(), before);
    }
}

#[test]
fn a_result_takes_the_place_of_an_older_one_whole() {
    let folder = folder(&[("web.wiring.yaml", FAULTY), ("report.txt", "older\n")]);
    let path = folder.path().join("report.txt");
    fs::set_permissions(&path, fs::Permissions::from_mode(0o604)).unwrap();
    let before = fs::metadata(&path).unwrap().ino();
    assert_eq!(run(&["audit", "--output", "report.txt"], folder.path()).status, 1);
    let text = fs::read_to_string(&path).unwrap();
    assert!(text.starts_with("error 1 of 1") && text.ends_with("was read\n"), "{text}");
    let after = fs::metadata(&path).unwrap();
    assert_eq!(after.mode() & 0o777, 0o604);
    assert_ne!(after.ino(), before, "it was written beside the older one");
    // What is no regular file is written to as it is.
    assert_eq!(run(&["audit", "--output", "/dev/null"], folder.path()).status, 1);
    let gone = run(&["audit", "--output", "no/such/folder/report.txt"], folder.path());
    assert_eq!(gone.status, 3, "{gone:#?}");
}

#[test]
fn the_demo_replaces_no_file() {
    let folder = folder(&[("velmora/corvant.toml", "# ours\n")]);
    let outcome = run(&["demo", "--write", "velmora"], folder.path());
    assert_eq!(outcome.status, 2, "{outcome:#?}");
    let beside = folder.path().join("other");
    fs::create_dir(&beside).unwrap();
    // A folder that may be written to and not listed.
    fs::set_permissions(&beside, fs::Permissions::from_mode(0o333)).unwrap();
    fs::write(beside.join("corvant.toml"), "# ours\n").unwrap();
    let outcome = run(&["demo", "--write", "other"], folder.path());
    fs::set_permissions(&beside, fs::Permissions::from_mode(0o755)).unwrap();
    assert!(outcome.status >= 2, "{outcome:#?}");
    assert_eq!(fs::read_to_string(beside.join("corvant.toml")).unwrap(), "# ours\n");
}

#[test]
fn an_interrupt_has_its_own_status_without_a_terminal_too() {
    let folder = folder(&[]);
    for file in corvant_testing::corpus::corpus(100_000, false, 3) {
        write(folder.path(), &file.path, file.text.as_bytes()).unwrap();
    }
    let mut command = Command::cargo_bin("corvant").unwrap();
    let command =
        command.args(["audit", "--threads", "1", "--output", "report.txt"]).current_dir(folder.path());
    let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
    sleep(Duration::from_millis(150));
    shell(&format!("kill -INT {}", child.id()), folder.path());
    assert_eq!(child.wait().unwrap().code(), Some(130));
    let left = fs::read_dir(folder.path()).unwrap().flatten().map(|entry| entry.file_name());
    assert!(left.into_iter().all(|name| !name.as_bytes().starts_with(b".corvant-")));
}

#[test]
fn as_many_threads_as_anybody_asks_for_do_no_harm() {
    let folder = folder(&[("web.wiring.yaml", FAULTY)]);
    let begun = Instant::now();
    let few = run(&["audit"], folder.path());
    let many = run(&["audit", "--threads", "1024"], folder.path());
    let by_variable =
        outcome(program().arg("audit").env("RAYON_NUM_THREADS", "100000").current_dir(folder.path()));
    assert_eq!((&many.stdout, many.status), (&few.stdout, few.status));
    assert_eq!((&by_variable.stdout, by_variable.status), (&few.stdout, few.status));
    assert!(begun.elapsed() < Duration::from_secs(10), "{:?}", begun.elapsed());
}
