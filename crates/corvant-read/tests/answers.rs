//! Answers are given once more for as long as nothing that they were made from is another, and never after.

#![cfg(unix)]

use corvant_read::cache::{Answer, Consulted, MadeFrom, Question};
use corvant_read::workspace::{self, Beside};
use std::fs::{self, File};
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;
use std::thread::sleep;
use std::time::Duration;
use tempfile::TempDir;

const DEPOT: &str = "corvant: 1\nmodule: depot\nservices: { depot.gate: {} }\n";
/// A reader whose files say what they import, and whose module stands in a file of their folder.
const SETTINGS: &str = "exclude = ['out/**']
[[reader]]
name = 'house'
files = ['house/a.json']
syntax = 'json'
module = { from = '$.module', absent = { file = 'owner.json', from = '$.owner' } }
[[reader.take]]
what = 'service'
each = '$.parts[*]'
id = '$'
[[reader.take]]
what = 'import'
each = '$.bring[*]'
path = '$'
";
const ANSWER: &str = "what was answered\n";

struct Asked {
    root: TempDir,
    kept: TempDir,
}

impl Asked {
    fn new() -> Self {
        let asked = Self { root: tempfile::tempdir().unwrap(), kept: tempfile::tempdir().unwrap() };
        let house = "{ \"parts\": [\"a\"], \"bring\": [\"more.txt\"] }";
        for (path, text) in [
            ("corvant.toml", SETTINGS),
            ("depot.wiring.yaml", DEPOT),
            ("two/track.wiring.yaml", "corvant: 1\nmodule: track\nservices: { track.one: {} }\n"),
            ("house/a.json", house),
            ("house/owner.json", "{ \"owner\": \"signals\" }"),
            ("elsewhere/linked", "corvant: 1\nmodule: linked\nservices: { linked.one: {} }\n"),
            ("elsewhere/other", "corvant: 1\nmodule: other\nservices: { other.one: {} }\n"),
            (".gitignore", "out\n"),
        ] {
            let path = asked.root.path().join(path);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, text).unwrap();
        }
        symlink("elsewhere/linked", asked.root.path().join("linked.wiring.yaml")).unwrap();
        asked
    }

    fn question(&self, asked: &str) -> Question<'_> {
        Question::new(self.kept.path(), self.root.path(), asked).unwrap()
    }

    /// What there is now; nothing, if it may change before the clock shows it.
    fn made_from(&self) -> Option<MadeFrom> {
        MadeFrom::new(&workspace::find(self.root.path(), Beside::default()).unwrap())
    }

    fn answer(&self) -> Option<Answer> {
        self.made_from().and_then(|made_from| self.question("?").answer(made_from))
    }

    /// Reads it all, and keeps an answer to that.
    fn keep(&self) {
        let consulted = Consulted::default();
        let beside = Beside { consulted: Some(&consulted), ..Beside::default() };
        let found = workspace::find(self.root.path(), beside).unwrap();
        let made_from = MadeFrom::new(&found).unwrap();
        found.read().unwrap();
        let answer = Answer { status: 1, text: ANSWER.to_owned() };
        self.question("?").keep(made_from, consulted, &answer);
    }
}

type Change = fn(&Path);

fn put(path: &Path, text: &str) {
    fs::write(path, text).unwrap();
}

/// Each is done to a workspace whose answer is kept; whether that is still the answer.
const CHANGES: [(&str, bool, Change); 20] = [
    ("nothing", true, |_| ()),
    ("a file that nobody reads", true, |root| put(&root.join("two/notes.txt"), "x")),
    ("a file is longer", false, |root| put(&root.join("depot.wiring.yaml"), &DEPOT.replace("gate", "gates"))),
    ("a file is as long and as old", false, |root| {
        let path = root.join("depot.wiring.yaml");
        let modified = fs::metadata(&path).unwrap().modified().unwrap();
        put(&path, &DEPOT.replace("gate", "yard"));
        File::options().write(true).open(path).unwrap().set_modified(modified).unwrap();
    }),
    ("a file is there again", false, |root| {
        fs::remove_file(root.join("depot.wiring.yaml")).unwrap();
        put(&root.join("depot.wiring.yaml"), DEPOT);
    }),
    ("a new file", false, |root| put(&root.join("two/new.wiring.yaml"), DEPOT)),
    ("a file less", false, |root| fs::remove_file(root.join("two/track.wiring.yaml")).unwrap()),
    ("a file is called otherwise", false, |root| {
        fs::rename(root.join("two/track.wiring.yaml"), root.join("two/rail.wiring.yaml")).unwrap();
    }),
    ("a file is no file any more", false, |root| {
        fs::remove_file(root.join("two/track.wiring.yaml")).unwrap();
        assert!(Command::new("mkfifo").arg(root.join("two/track.wiring.yaml")).status().unwrap().success());
    }),
    ("two files for each other", false, |root| {
        let [one, two, third] =
            ["depot.wiring.yaml", "two/track.wiring.yaml", "x"].map(|path| root.join(path));
        fs::rename(&one, &third).unwrap();
        fs::rename(&two, &one).unwrap();
        fs::rename(&third, &two).unwrap();
    }),
    ("a link leads elsewhere", false, |root| {
        fs::remove_file(root.join("linked.wiring.yaml")).unwrap();
        symlink("elsewhere/other", root.join("linked.wiring.yaml")).unwrap();
    }),
    ("what a link leads to", false, |root| put(&root.join("elsewhere/linked"), DEPOT)),
    ("a folder that is not looked into", true, |root| {
        fs::create_dir(root.join("elsewhere/more")).unwrap();
        put(&root.join("elsewhere/more/x"), DEPOT);
    }),
    ("what is hidden", false, |root| {
        fs::create_dir(root.join("out")).unwrap();
        put(&root.join("out/a.wiring.yaml"), DEPOT);
    }),
    ("an ignore file", false, |root| put(&root.join(".gitignore"), "out\ntwo\n")),
    ("an ignore file above", false, |root| put(&root.join("two/.gitignore"), "*.yaml\n")),
    ("the workspace file", false, |root| {
        put(&root.join("corvant.toml"), &SETTINGS.replace("'out/**'", "'two/**'"));
    }),
    ("what is said for a folder", false, |root| {
        put(&root.join("house/owner.json"), "{ \"owner\": \"depot\" }");
    }),
    ("what is said nearer", false, |root| fs::remove_file(root.join("house/owner.json")).unwrap()),
    ("a file that was missed", false, |root| put(&root.join("house/more.txt"), "")),
];

#[test]
fn an_answer_holds_until_something_it_was_made_from_is_another() {
    let asked: Vec<Asked> = CHANGES.iter().map(|_| Asked::new()).collect();
    assert_eq!(asked[0].made_from(), None, "what was changed just now may change again");
    sleep(Duration::from_millis(2_100));
    for (asked, (name, holds, change)) in asked.iter().zip(CHANGES) {
        assert_eq!(asked.answer(), None, "{name}: nothing is kept yet");
        asked.keep();
        let kept = asked.answer().unwrap_or_else(|| panic!("{name}: it is kept"));
        assert_eq!((kept.status, kept.text.as_str()), (1, ANSWER));
        change(asked.root.path());
        assert_eq!(asked.answer().is_some(), holds, "{name}");
    }
    let asked = &asked[0];
    let made_from = asked.made_from().unwrap();
    assert_eq!(asked.question("another?").answer(made_from), None, "it was the answer to something else");
    let elsewhere = tempfile::tempdir().unwrap();
    let question = Question::new(asked.kept.path(), elsewhere.path(), "?").unwrap();
    assert_eq!(question.answer(made_from), None, "it was the answer of another folder");
    for file in fs::read_dir(asked.kept.path()).unwrap() {
        let path = file.unwrap().path();
        let bytes = fs::read(&path).unwrap();
        fs::write(&path, &bytes[..bytes.len() - 1]).unwrap();
    }
    assert_eq!(asked.answer(), None, "it is broken");
}

/// What was looked for beside the files in the last two seconds may be another by the next time; so may what is long.
#[test]
fn what_may_be_another_is_not_kept() {
    let asked = Asked::new();
    sleep(Duration::from_millis(2_100));
    put(&asked.root.path().join("house/owner.json"), "{ \"owner\": \"depot\" }");
    asked.keep();
    assert_eq!(asked.answer(), None);
    let long = Answer { status: 0, text: " ".repeat(Answer::LONGEST + 1) };
    let made_from = asked.made_from().unwrap();
    asked.question("?").keep(made_from, Consulted::default(), &long);
    assert_eq!(asked.answer(), None);
    asked.question("?").keep(made_from, Consulted::default(), &Answer { status: 0, text: String::new() });
    assert!(asked.answer().is_some());
}
