//! Revisions as they come: in folders of repositories, with links, in shallow, bare and partial clones, or not at all.

use super::{CLEAN, FAULTY, assert_refused, commit, compared, contents, git, repository, turns, write};
use crate::support::{folder, outcome, program, run};
use rstest::rstest;
use serde_json::Value;
use std::fs;
use std::os::unix::fs::symlink;

const GATE: &str = "corvant: 1\nmodule: depot\nservices:\n  depot.gate: {}\nentries:\n  open: { needs: { gate: { service: depot.gate } } }\n";

#[test]
fn nothing_is_written_anywhere() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    write(repository.path(), "web.wiring.yaml", FAULTY);
    let before = contents(repository.path());
    for call in [["compare", "HEAD"], ["audit", "--since=HEAD"]] {
        assert_eq!(run(&call, repository.path()).status, 1);
    }
    assert_eq!(contents(repository.path()), before);
}

#[test]
fn a_folder_of_a_repository_is_a_workspace_of_its_own() {
    let repository = repository(&[("services/web.wiring.yaml", CLEAN), ("other/depot.wiring.yaml", GATE)]);
    let services = repository.path().join("services");
    write(&services, "web.wiring.yaml", FAULTY);
    assert_eq!(turns(&compared(&services, &["HEAD"])), ["gone service web.tiles"]);
    assert_eq!(
        turns(&compared(repository.path(), &["HEAD", "--root", "services"])),
        ["gone service web.tiles"]
    );
    fs::create_dir(repository.path().join("new")).unwrap();
    write(repository.path(), "new/depot.wiring.yaml", GATE);
    let outcome = run(&["compare", "HEAD", "--root", "new"], repository.path());
    assert_refused(&outcome, "HEAD has no folder new");
}

#[test]
fn ignore_files_and_the_workspace_file_are_those_of_the_revision() {
    let toml = "[workspace]\nexclude = [\"old\"]\n";
    let repository =
        repository(&[("web.wiring.yaml", CLEAN), ("corvant.toml", toml), ("old/depot.wiring.yaml", GATE)]);
    let root = repository.path();
    fs::remove_file(root.join("corvant.toml")).unwrap();
    let turned = turns(&compared(root, &["HEAD"]));
    assert!(turned.contains(&"new service depot.gate".to_owned()), "{turned:?}");
    commit(root, "all of it");
    // A file that is ignored there is ignored in the revision too, although it is in it.
    write(root, ".gitignore", "old/\n");
    commit(root, "ignored");
    let turned = turns(&compared(root, &["HEAD~1", "HEAD"]));
    assert!(turned.contains(&"gone service depot.gate".to_owned()), "{turned:?}");
}

#[test]
fn readers_of_the_house_read_revisions_too() {
    let toml = "[[reader]]\nname = \"house\"\nfiles = [\"*.house.yaml\"]\nsyntax = \"yaml\"\nmodule = \"$.module\"\n[[reader.take]]\nwhat = \"service\"\neach = \"$.objects.*\"\nid = { key = true }\n";
    let repository = repository(&[
        ("corvant.toml", toml),
        ("a.house.yaml", "module: depot\nobjects:\n  gate: {}\n"),
        ("web.wiring.yaml", CLEAN),
    ]);
    let root = repository.path();
    write(root, "a.house.yaml", "module: depot\nobjects:\n  gate: {}\n  doors: {}\n");
    assert_eq!(turns(&compared(root, &["HEAD"])), ["new service doors"]);
}

/// Of what both states have a revision is laid out empty; whoever looks at it sees the text all the same.
#[rstest]
#[case::plain(false)]
#[case::with_a_link(true)]
fn a_revision_is_compared_as_the_folder_that_it_was(#[case] with_link: bool) {
    let toml = "[[reader]]\nname = \"house\"\nfiles = [\"house/a.json\"]\nsyntax = \"json\"\n\
        module = { from = \"$.module\", absent = { file = \"depot.wiring.json\", from = \"$.module\" } }\n\
        [[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\n\
        [[types]]\nfiles = [\"src/*.java\"]\n";
    let files = [
        ("corvant.toml", toml),
        (
            "house/depot.wiring.json",
            "{\"corvant\": 1, \"module\": \"depot\", \"services\": {\"yard\": {\"type\": \"velmora.Yrad\"}}}",
        ),
        ("house/a.json", "{\"parts\": {\"gate\": {}}}"),
        (
            "mark.wiring.yaml",
            "\u{feff}corvant: 1\nmodule: mark\nservices: { mark.one: { needs: { x: { service: gone } } } }\n",
        ),
        ("src/Yard.java", "package velmora;\nclass Yard {}\n"),
        ("web.wiring.yaml", CLEAN),
    ];
    let repository = repository(&files);
    let before = folder(&files);
    for root in [repository.path(), before.path()] {
        if with_link {
            symlink("web.wiring.yaml", root.join("also.wiring.yaml")).unwrap();
        }
    }
    if with_link {
        commit(repository.path(), "a link");
    }
    write(repository.path(), "house/b.wiring.yaml", GATE);
    write(repository.path(), "src/Yard.java", "package velmora;\nclass Yrad {}\n");
    let compared = |old: &str| {
        let mut compared = compared(repository.path(), &[old]);
        compared["old"] = Value::Null;
        compared
    };
    let (revision, folder) = (compared("HEAD"), compared(before.path().to_str().unwrap()));
    assert_eq!(revision, folder);
    assert!(turns(&revision).contains(&"new service depot.gate".to_owned()), "{revision:#}");
}

#[test]
fn renames_of_files_and_modules_are_told() {
    let repository = repository(&[("a/depot.wiring.yaml", GATE), ("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    git(root, &["mv", "a", "b"]);
    commit(root, "moved");
    let comparison = compared(root, &["HEAD~1", "HEAD"]);
    assert_eq!(turns(&comparison), ["changed service depot.gate", "changed entry open"]);
    assert_eq!(comparison["definitions"][0]["parts"][0]["aspect"], "file");
    assert!(comparison["effects"].as_array().unwrap().is_empty());
}

#[test]
fn links_stay_inside_and_others_are_told() {
    let outside = folder(&[("secret.wiring.yaml", GATE)]);
    let repository = repository(&[("real/web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    symlink("real", root.join("link")).unwrap();
    symlink(outside.path().join("secret.wiring.yaml"), root.join("out.wiring.yaml")).unwrap();
    commit(root, "links");
    fs::remove_file(root.join("out.wiring.yaml")).unwrap();
    let gone = turns(&compared(root, &["HEAD"]));
    assert!(gone.is_empty(), "nothing outside belongs to a revision: {gone:?}");
    fs::remove_dir_all(root.join("real")).unwrap();
    fs::remove_file(root.join("link")).unwrap();
    write(root, "web.wiring.yaml", FAULTY);
    assert!(turns(&compared(root, &["HEAD"])).contains(&"gone service web.tiles".to_owned()));
}

#[test]
fn other_repositories_and_large_files_kept_elsewhere_are_not_read() {
    let pointer = "version https://git-lfs.github.com/spec/v1\noid sha256:4d7a\nsize 12345\n";
    let repository = repository(&[("web.wiring.yaml", CLEAN), ("large.wiring.yaml", pointer)]);
    let root = repository.path();
    let head = git(root, &["rev-parse", "HEAD"]);
    git(root, &["update-index", "--add", "--cacheinfo", &format!("160000,{head},lib")]);
    git(root, &["commit", "--quiet", "-m", "a library"]);
    let other = folder(&[("web.wiring.yaml", CLEAN)]);
    let other = other.path().display().to_string();
    // The pointer is no manifest, so nothing of it is a finding of the revision.
    let comparison = compared(root, &["HEAD", &other]);
    assert_eq!(turns(&comparison), Vec::<String>::new());
    assert_eq!(comparison["findings"]["gone"].as_array().unwrap().len(), 0);
    let unseen = |spot: &Value| (spot["state"].to_string(), spot["subject"].to_string());
    let unseen: Vec<_> = comparison["blind_spots"].as_array().unwrap().iter().map(unseen).collect();
    let old = |subject: &str| ("\"old\"".to_owned(), format!("\"{subject}\""));
    assert_eq!(unseen, [old("large.wiring.yaml"), old("lib")]);
    let told =
        ["lib in HEAD: it is another repository", "large.wiring.yaml in HEAD: it only names a large file"];
    for format in ["text", "markdown"] {
        let written = run(&["compare", "HEAD", &other, "--format", format], root).stdout;
        let written = written.replace('\\', "");
        assert!(told.iter().all(|told| written.contains(told)), "{written}");
    }
    // A gate says that what it could not see before may be old.
    for format in ["text", "json", "sarif", "markdown"] {
        let audited = run(&["audit", "--since", "HEAD", "--format", format], root).stdout;
        assert!(audited.contains("lib at HEAD"), "{audited}");
    }
}

/// What is much does not fill the memory: it is laid out where other passing files are.
#[test]
fn what_is_large_is_laid_out_on_disk() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    let call = |passing: &str| {
        outcome(program().args(["compare", "HEAD~1", "HEAD"]).env("TMPDIR", passing).current_dir(root))
    };
    commit(root, "the same");
    let has_memory = fs::metadata("/dev/shm").is_ok();
    assert_eq!(call("/nowhere/at/all").status, if has_memory { 0 } else { 3 });
    write(root, "depot.wiring.yaml", &format!("{GATE}# {}\n", "x".repeat(49 << 20)));
    commit(root, "large");
    // What lies in the folder would not be taken out.
    fs::remove_file(root.join("depot.wiring.yaml")).unwrap();
    let refused = call("/nowhere/at/all");
    assert_refused(&refused, "a revision cannot be laid out for reading");
    let passing = folder(&[]);
    let told = call(&passing.path().display().to_string());
    assert!(told.stdout.contains("new      service depot.gate"), "{told:#?}");
    assert!(contents(passing.path()).is_empty(), "it goes away again");
}

#[test]
fn what_no_reader_would_take_in_is_not_taken_out() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    fs::File::create(root.join("depot.wiring.yaml")).unwrap().set_len((512 << 20) + 1).unwrap();
    commit(root, "huge");
    fs::remove_file(root.join("depot.wiring.yaml")).unwrap();
    let told = run(&["compare", "HEAD"], root).stdout;
    assert!(told.contains("depot.wiring.yaml in HEAD: it is larger than 512 MiB"), "{told}");
}

#[test]
fn bare_repositories_and_work_trees_are_read() {
    let origin = repository(&[("web.wiring.yaml", FAULTY)]);
    write(origin.path(), "web.wiring.yaml", CLEAN);
    commit(origin.path(), "clean");
    let clones = folder(&[]);
    let from = origin.path().display().to_string();
    git(clones.path(), &["clone", "--quiet", "--bare", &from, "bare"]);
    let bare = clones.path().join("bare");
    assert_eq!(turns(&compared(&bare, &["HEAD~1", "HEAD"])), ["new service web.tiles"]);
    git(
        origin.path(),
        &["worktree", "add", "--quiet", &clones.path().join("tree").display().to_string(), "HEAD~1"],
    );
    assert_eq!(turns(&compared(&clones.path().join("tree"), &["main"])), ["gone service web.tiles"]);
}

#[test]
fn what_a_clone_lacks_is_said_and_not_fetched() {
    let origin = repository(&[("web.wiring.yaml", CLEAN)]);
    write(origin.path(), "web.wiring.yaml", FAULTY);
    commit(origin.path(), "faulty");
    git(origin.path(), &["config", "uploadpack.allowFilter", "true"]);
    let clones = folder(&[]);
    let from = format!("file://{}", origin.path().display());
    git(clones.path(), &["clone", "--quiet", "--depth", "1", &from, "shallow"]);
    let shallow = run(&["compare", "HEAD~1"], &clones.path().join("shallow"));
    assert_refused(&shallow, "the clone is shallow; fetch more of the history");
    git(clones.path(), &["clone", "--quiet", "--filter=blob:none", &from, "partial"]);
    let partial = run(&["compare", "HEAD~1"], &clones.path().join("partial"));
    assert_refused(&partial, "web.wiring.yaml of HEAD~1 is not in this clone");
    assert_eq!(turns(&compared(&clones.path().join("partial"), &["HEAD"])), Vec::<String>::new());
}

#[test]
fn what_is_no_revision_is_refused_with_what_to_do() {
    let plain = folder(&[("web.wiring.yaml", CLEAN)]);
    assert_refused(&run(&["compare", "main"], plain.path()), "is in no repository");
    assert_refused(&run(&["audit", "--since", "main"], plain.path()), "is in no repository");
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    assert_refused(&run(&["compare", "nowhere"], root), "no folder and no revision nowhere");
    assert_refused(&run(&["compare", "--", "--output=x"], root), "no folder and no revision --output=x");
    assert_refused(
        &run(&["compare", "HEAD:web.wiring.yaml"], root),
        "no folder and no revision HEAD:web.wiring.yaml",
    );
    git(root, &["checkout", "--quiet", "--orphan", "other"]);
    commit(root, "another beginning");
    assert_refused(&run(&["compare", "main...other"], root), "have no common ancestor");
    fs::remove_file(root.join("web.wiring.yaml")).unwrap();
    write(root, "readme.txt", "nothing to audit");
    commit(root, "nothing");
    assert_refused(&run(&["compare", "HEAD", "main"], root), "HEAD: ");
}

#[test]
fn without_the_program_folders_can_still_be_compared() {
    let repository = repository(&[("old/web.wiring.yaml", FAULTY), ("new/web.wiring.yaml", CLEAN)]);
    let nowhere = folder(&[]);
    let call = |arguments: &[&str]| {
        outcome(program().args(arguments).env("PATH", nowhere.path()).current_dir(repository.path()))
    };
    assert_refused(&call(&["compare", "HEAD"]), "which is not installed here: compare folders instead");
    assert_eq!(call(&["compare", "old", "new"]).status, 0);
}

#[test]
fn a_repository_of_somebody_else_is_left_alone() {
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let call = outcome(
        program()
            .args(["compare", "HEAD"])
            .env("GIT_TEST_ASSUME_DIFFERENT_OWNER", "1")
            .env("GIT_CONFIG_GLOBAL", "/dev/null")
            .env("GIT_CONFIG_NOSYSTEM", "1")
            .current_dir(repository.path()),
    );
    assert_refused(&call, "`safe.directory` says whom to trust");
}

#[test]
fn what_a_repository_is_set_up_to_run_is_not_run() {
    let repository =
        repository(&[("web.wiring.yaml", CLEAN), (".gitattributes", "* filter=evil diff=evil\n")]);
    let root = repository.path();
    let trap = root.join("trap");
    let command = format!("touch {}; cat", trap.display());
    for setting in [
        "core.fsmonitor",
        "core.pager",
        "core.sshCommand",
        "filter.evil.smudge",
        "filter.evil.clean",
        "diff.evil.textconv",
        "diff.external",
    ] {
        git(root, &["config", setting, &command]);
    }
    write(root, "web.wiring.yaml", FAULTY);
    assert_eq!(run(&["compare", "HEAD"], root).status, 1);
    assert!(!trap.exists(), "something of the repository was run");
}

#[test]
fn names_that_are_no_text_are_read() {
    use std::os::unix::ffi::OsStrExt;
    let repository = repository(&[("web.wiring.yaml", CLEAN)]);
    let root = repository.path();
    let name = std::ffi::OsStr::from_bytes(b"depot\xff.wiring.yaml");
    fs::write(root.join(name), GATE).unwrap();
    commit(root, "a name");
    fs::remove_file(root.join(name)).unwrap();
    assert!(turns(&compared(root, &["HEAD"])).contains(&"gone service depot.gate".to_owned()));
}
