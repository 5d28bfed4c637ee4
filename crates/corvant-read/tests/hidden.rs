//! What ignore files, dots before names and the workspace file hide, what they do not, and that all of it is told.

use corvant_core::audit::{Options, audit};
use corvant_core::facts::SourceKind;
use corvant_core::finding::BlindSpotKind;
use corvant_read::workspace;
use rstest::rstest;
use std::fs;

const OWN: &str = "corvant: 1\nmodule: lines\n";
const READER: &str = "name = \"objects\"\nsyntax = \"yaml\"\nmodule = \"objects\"\n\
                      [[reader.take]]\nwhat = \"service\"\neach = \"$.objects[*]\"\nid = \"$.id\"\n";

/// A folder of files. One without a text gets what its name asks for.
fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (path, text) in files {
        let text = match *text {
            "" if path.ends_with(".wiring.yaml") => OWN,
            "" if path.ends_with("METADATA") => "Name: velmora_voice\nRequires-Dist: velmora-tones\n",
            "" if path.ends_with(".objects.yaml") => "objects: [{ id: red }]\n",
            text => text,
        };
        let path = folder.path().join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
    folder
}

/// The manifests that are read, and what is told of those that are not.
fn read(files: &[(&str, &str)]) -> (String, Vec<String>) {
    let folder = folder(files);
    let read = workspace::read(folder.path()).unwrap();
    let manifests = read.manifests.iter().filter(|read| read.header.kind == SourceKind::Manifest);
    let paths: Vec<&str> = manifests.map(|manifest| manifest.source.path.as_str()).collect();
    let hidden = read.blind_spots.iter().filter(|spot| spot.kind == BlindSpotKind::Hidden);
    (paths.join(" "), hidden.map(|spot| format!("{}: {}", spot.subject, spot.message)).collect())
}

#[rstest]
#[case::the_root(&[(".gitignore", "*"), ("a.wiring.yaml", ""), ("b/b.wiring.yaml", "")], "a.wiring.yaml b/b.wiring.yaml")]
#[case::the_root_but_for_the_ignore_file(&[(".gitignore", "*\n!.gitignore"), ("a.wiring.yaml", "")], "a.wiring.yaml")]
#[case::an_environment_that_hides_itself(
    &[("a.wiring.yaml", ""), ("env/.gitignore", "*"), ("env/pyvenv.cfg", ""), ("env/lib/site-packages/velmora_voice-1.dist-info/METADATA", "")],
    "a.wiring.yaml env/lib/site-packages/velmora_voice-1.dist-info/METADATA"
)]
#[case::an_environment_that_is_hidden(
    &[("a.wiring.yaml", ""), (".gitignore", "/env/\n*.dist-info"), ("env/pyvenv.cfg", ""), ("env/lib/site-packages/velmora_voice-1.dist-info/METADATA", "")],
    "a.wiring.yaml env/lib/site-packages/velmora_voice-1.dist-info/METADATA"
)]
#[case::a_folder_of_distributions(
    &[("a.wiring.yaml", ""), (".gitignore", "lib/"), ("lib/velmora_voice-1.dist-info/METADATA", "")],
    "a.wiring.yaml lib/velmora_voice-1.dist-info/METADATA"
)]
#[case::a_distribution_and_its_files(
    &[("a.wiring.yaml", ""), (".gitignore", "*.dist-info\nMETADATA"), ("lib/velmora_voice-1.dist-info/METADATA", "")],
    "a.wiring.yaml lib/velmora_voice-1.dist-info/METADATA"
)]
#[case::activation_files(
    &[("a.wiring.yaml", ""), (".gitignore", "share/dbus-1/services\n*.service"),
      ("share/dbus-1/services/org.velmora.Clock.service", "[D-BUS Service]\nName=org.velmora.Clock\nExec=/usr/bin/clock\n")],
    "a.wiring.yaml share/dbus-1/services/org.velmora.Clock.service"
)]
#[case::a_member(
    &[("corvant.toml", "[workspace]\nmembers = [\"made/lines\"]\n"), (".gitignore", "made/"), ("made/lines/a.wiring.yaml", ""), ("made/lines/.ignore", "*")],
    "made/lines/a.wiring.yaml"
)]
#[case::a_member_with_a_dot(
    &[("corvant.toml", "[workspace]\nmembers = [\".made\"]\n"), (".made/a.wiring.yaml", "")],
    ".made/a.wiring.yaml"
)]
fn no_ignore_file_hides_what_is_asked_for(#[case] files: &[(&str, &str)], #[case] expected: &str) {
    assert_eq!(read(files), (expected.to_owned(), Vec::new()));
}

#[rstest]
#[case::the_folder("made/*.objects.yaml", "/made/")]
#[case::its_content("made/*.objects.yaml", "/made/*")]
#[case::the_folder_itself("made/*.objects.yaml", "*.objects.yaml")]
#[case::a_file("made/red.objects.yaml", "red.*")]
#[case::a_folder_anywhere("**/made/*.objects.yaml", "made")]
fn no_ignore_file_hides_what_a_reader_names(#[case] files: &str, #[case] ignored: &str) {
    let workspace = format!("[[reader]]\nfiles = [\"{files}\"]\n{READER}");
    let all = [("corvant.toml", workspace.as_str()), (".gitignore", ignored), ("made/red.objects.yaml", "")];
    assert_eq!(read(&all), ("made/red.objects.yaml".to_owned(), Vec::new()));
}

#[test]
fn what_is_hidden_is_told() {
    let (manifests, hidden) = read(&[
        ("corvant.toml", "[workspace]\nmembers = [\"in\"]\nexclude = [\"in/old\"]\n"),
        ("in/.gitignore", "/target/\n/deep/*\n*.tmp\n"),
        ("in/.cargo/a.txt", ""),
        ("in/.git/a.wiring.yaml", ""),
        ("in/a.tmp", ""),
        ("in/a.wiring.yaml", ""),
        ("in/deep/a.wiring.yaml", ""),
        ("in/empty/.gitignore", "*"),
        ("in/empty/a.txt", ""),
        ("in/old/a.wiring.yaml", ""),
        ("in/target/a.wiring.yaml", ""),
        ("out/a.wiring.yaml", ""),
        ("out/b.wiring.yaml", ""),
        ("out/c.wiring.yaml", ""),
        ("out/d.wiring.yaml", ""),
    ]);
    assert_eq!(manifests, "in/a.wiring.yaml");
    assert_eq!(
        hidden,
        [
            "ignore files: they hide 2 folders (in/empty, in/target) and 1 manifest (in/deep/a.wiring.yaml)",
            "hidden names: a dot before the name hides 1 folder (in/.cargo)",
            "exclude: the workspace file leaves out 1 folder (in/old)",
            "members: the workspace file names members; 4 manifests (out/a.wiring.yaml, out/b.wiring.yaml, \
             out/c.wiring.yaml, …) in none of them",
        ]
    );
}

#[test]
fn where_all_is_hidden_the_error_says_so() {
    let folder = folder(&[(".gitignore", "lines/\n"), ("a.txt", ""), ("lines/a.wiring.yaml", "")]);
    let error = workspace::read(folder.path()).unwrap_err().to_string();
    assert!(error.ends_with("\n  ignore files: they hide 1 folder (lines)"), "{error}");
}

#[cfg(unix)]
#[rstest]
#[case::one(&["a"], "a.wiring.yaml", "the link a.wiring.yaml leads to ../gone, which is not there")]
#[case::several(&["a", "b", "c"], "dead links", "3 links lead to what is not there")]
fn links_that_lead_nowhere_are_one_finding(
    #[case] names: &[&str],
    #[case] subject: &str,
    #[case] message: &str,
) {
    let folder = folder(&[("x.wiring.yaml", "")]);
    for name in names {
        std::os::unix::fs::symlink("../gone", folder.path().join(format!("{name}.wiring.yaml"))).unwrap();
    }
    let (wiring, _) = workspace::read(folder.path()).unwrap().link();
    let report = audit(&wiring, &Options::default());
    let dead: Vec<_> = report.findings.iter().filter(|found| found.rule.name == "unreadable-file").collect();
    assert_eq!(dead.len(), 1);
    assert_eq!((dead[0].subject.as_str(), dead[0].message.as_str()), (subject, message));
    let roles: Vec<&str> = dead[0].places.iter().map(|place| place.role.as_ref()).collect();
    assert_eq!(roles, vec!["leads to ../gone, which is not there"; names.len()]);
    let told = report.blind_spots.iter().filter(|spot| spot.kind == BlindSpotKind::UnreadableFile);
    assert_eq!(told.map(|spot| spot.places.len()).collect::<Vec<_>>(), [names.len()]);
}
