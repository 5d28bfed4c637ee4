//! What is kept of jars: with it, without it and with a broken one the result is the same.

mod classes;

use classes::{CLASSES, archive};
use corvant_core::audit::{Options, audit};
use corvant_read::workspace::{self, Beside};
use rstest::rstest;
use std::fs::{self, File};
use std::path::{Path, PathBuf};
use std::thread::sleep;
use std::time::{Duration, SystemTime};
use tempfile::TempDir;

const MANIFEST: &str = "corvant: 1\nmodule: depot\nservices: { gaet: { type: velmora.depot.Gaet } }\n\
    entries: { open: { needs: { gaet: { service: gaet } } } }\n";

/// A workspace with a jar, and an empty folder for what is kept.
struct Kept {
    root: TempDir,
    cache: TempDir,
}

impl Kept {
    fn new(jar: &[u8]) -> Self {
        let kept = Self { root: tempfile::tempdir().unwrap(), cache: tempfile::tempdir().unwrap() };
        fs::write(kept.root.path().join("corvant.toml"), "[[types]]\nfiles = ['lib/*.jar']\n").unwrap();
        fs::write(kept.root.path().join("depot.wiring.yaml"), MANIFEST).unwrap();
        fs::create_dir(kept.root.path().join("lib")).unwrap();
        fs::write(kept.jar(), jar).unwrap();
        kept
    }

    fn jar(&self) -> PathBuf {
        self.root.path().join("lib/depot.jar")
    }

    fn read(&self, cache: Option<&Path>) -> Vec<String> {
        let workspace =
            workspace::read_beside(self.root.path(), Beside { cache, ..Beside::default() }).unwrap();
        let types: Vec<String> =
            workspace.manifests.iter().map(|manifest| format!("{:?}", manifest.facts)).collect();
        let (wiring, blind_spots) = workspace.link();
        let findings = audit(&wiring, &Options::default()).findings;
        let found = findings.iter().map(|found| format!("{found:?}"));
        found.chain(blind_spots.iter().map(|spot| format!("{spot:?}"))).chain(types).collect()
    }

    fn with_cache(&self) -> Vec<String> {
        self.read(Some(self.cache.path()))
    }

    /// What is kept, with when it was written.
    fn files(&self) -> Vec<(PathBuf, SystemTime)> {
        let files = fs::read_dir(self.cache.path()).unwrap().map(|file| {
            let file = file.unwrap();
            (file.path(), file.metadata().unwrap().modified().unwrap())
        });
        let mut files: Vec<_> = files.collect();
        files.sort();
        files
    }
}

/// Until a change of a file would show.
fn settle() {
    sleep(Duration::from_millis(3_100));
}

#[test]
fn a_jar_is_read_once() {
    let kept = Kept::new(&archive(&CLASSES));
    let without = kept.read(None);
    assert!(without.iter().any(|line| line.contains("Gaet")), "{without:#?}");
    assert_eq!(kept.with_cache(), without);
    assert_eq!(kept.files(), [], "a file that was changed just now may change again");
    settle();
    assert_eq!(kept.with_cache(), without);
    let files = kept.files();
    assert_eq!(files.len(), 2, "what is in it, and the file that it is");
    assert_eq!(kept.with_cache(), without);
    assert_eq!(kept.files(), files, "nothing is read anew");
    // The same jar elsewhere is known by what is in it.
    fs::copy(kept.jar(), kept.root.path().join("lib/other.jar")).unwrap();
    let twice = kept.read(None);
    assert_eq!(kept.with_cache(), twice);
    assert_eq!(kept.files(), files);
}

#[test]
fn a_jar_that_changes_is_read_anew() {
    let kept = Kept::new(&archive(&CLASSES));
    settle();
    kept.with_cache();
    // With the same size and the same date.
    let before = fs::metadata(kept.jar()).unwrap();
    let mut other = archive(&CLASSES);
    let at = other.windows(4).position(|bytes| bytes == b"Gate").unwrap();
    other[at..at + 4].copy_from_slice(b"Gaet");
    fs::write(kept.jar(), other).unwrap();
    File::options().write(true).open(kept.jar()).unwrap().set_modified(before.modified().unwrap()).unwrap();
    assert_eq!(fs::metadata(kept.jar()).unwrap().len(), before.len());
    assert_eq!(kept.with_cache(), kept.read(None));
    settle();
    assert_eq!(kept.with_cache(), kept.read(None));
}

#[rstest]
#[case::cut(|bytes: &mut Vec<u8>| bytes.truncate(bytes.len() / 2))]
#[case::empty(Vec::clear)]
#[case::other_bytes(|bytes: &mut Vec<u8>| bytes.iter_mut().skip(40).step_by(7).for_each(|byte| *byte ^= 0x55))]
#[case::no_hash(|bytes: &mut Vec<u8>| bytes.iter_mut().take(32).for_each(|byte| *byte = 0))]
fn what_is_broken_is_written_anew(#[case] spoil: fn(&mut Vec<u8>)) {
    let kept = Kept::new(&archive(&CLASSES));
    settle();
    let without = kept.read(None);
    kept.with_cache();
    let whole: Vec<Vec<u8>> = kept.files().iter().map(|(path, _)| fs::read(path).unwrap()).collect();
    for (path, _) in kept.files() {
        let mut bytes = fs::read(&path).unwrap();
        spoil(&mut bytes);
        fs::write(path, bytes).unwrap();
    }
    assert_eq!(kept.with_cache(), without);
    let again: Vec<Vec<u8>> = kept.files().iter().map(|(path, _)| fs::read(path).unwrap()).collect();
    assert_eq!(again, whole);
}

/// A place that cannot be written to keeps nothing, and is no error.
#[test]
fn a_cache_that_cannot_be_is_none() {
    let kept = Kept::new(&archive(&CLASSES));
    settle();
    let without = kept.read(None);
    for place in [kept.jar(), PathBuf::from("/proc/nowhere/at/all"), kept.root.path().join("lib")] {
        assert_eq!(kept.read(Some(&place)), without, "{}", place.display());
    }
    // Neither is anything taken from a folder in the way of a file.
    kept.with_cache();
    for (path, _) in kept.files() {
        fs::remove_file(&path).unwrap();
        fs::create_dir(&path).unwrap();
    }
    assert_eq!(kept.with_cache(), without);
}

/// What could not be unpacked is told each time.
#[test]
fn of_a_broken_jar_nothing_is_kept() {
    let mut jar = archive(&CLASSES);
    let start = jar.windows(4).position(|bytes| bytes == [0xca, 0xfe, 0xba, 0xbe]).unwrap_or(60);
    for byte in &mut jar[start..start + 40] {
        *byte ^= 0xff;
    }
    let kept = Kept::new(&jar);
    settle();
    let without = kept.read(None);
    assert_eq!(kept.with_cache(), without);
    assert_eq!(kept.with_cache(), without);
}

/// Source is known again by its text: as it was read, and only as long as it is that text.
#[test]
fn source_is_known_again_by_its_text() {
    let kept = Kept::new(&archive(&[]));
    let root = kept.root.path();
    fs::write(root.join("corvant.toml"), "[[types]]\nfiles = ['src/*.java', 'src/*.py']\n").unwrap();
    fs::create_dir(root.join("src")).unwrap();
    let path = |number: usize| root.join(format!("src/C{number:03}.java"));
    let class = |number: usize, of: &str| {
        format!(
            "package velmora.depot;\n@Part(\"{number}\") class C{number:03} {{\n  C{number:03}({of} next) {{}}\n  void open(int at) {{}}\n}}\n"
        )
    };
    for number in 0..300 {
        fs::write(path(number), class(number, "Gate")).unwrap();
        fs::write(root.join(format!("src/m{number}.py")), "class Lamp:\n    def lit(self): pass\n").unwrap();
    }
    fs::write(path(7), "package velmora.yard;\nclass Broken { void open() {\n").unwrap();
    let plain = kept.read(None);
    assert_eq!(kept.with_cache(), plain);
    let first = kept.files();
    assert!(first.len() > 10, "{first:?}");
    assert_eq!(kept.with_cache(), plain);
    assert_eq!(kept.files(), first, "nothing was new");
    fs::write(path(9), class(9, "Track")).unwrap();
    let other = kept.read(None);
    assert_ne!(other, plain);
    assert_eq!(kept.with_cache(), other);
    let changed = kept.files().iter().zip(&first).filter(|(now, before)| now != before).count();
    assert_eq!(changed, 1, "those that were read with it");
    fs::write(path(9), class(9, "Gate")).unwrap();
    let before = kept.files();
    assert_eq!(kept.with_cache(), plain);
    assert_eq!(kept.files(), before, "what was there before is still known");
    for (file, _) in &first {
        let mut bytes = fs::read(file).unwrap();
        let last = bytes.len() - 1;
        bytes[last] ^= 1;
        fs::write(file, bytes).unwrap();
    }
    assert_eq!(kept.with_cache(), plain);
}
