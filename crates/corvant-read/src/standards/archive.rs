//! Archives: jars and wheels, read where they lie.
//!
//! Of an archive the list of its files is read, and the few files that a standard asks for, one after another; nothing
//! is written to disk. A file that unpacks to more than it should is a finding, and the rest of the archive goes on.

use super::jar::{self, Jar};
use super::{Claimed, One, Reading, directory, has_ending};
use crate::fence::fenced;
use crate::files::{self, plain_reason};
use crate::manifest::{source, unreadable};
use corvant_core::facts::TroubleKind;
use corvant_core::source::Source;
use serde::{Deserialize, Serialize};
use std::fs::File;
use std::io::{BufReader, Read};
use std::path::Path;
use std::sync::atomic::{AtomicU64, Ordering};
use zip::ZipArchive;

/// No file that a standard asks for is larger when unpacked, in bytes.
const FILE_LIMIT: u64 = 16 << 20;
/// All files read from one archive are not larger together, in bytes.
const ARCHIVE_LIMIT: u64 = 256 << 20;
/// From a small archive, and of a small file in it, less is read: so many bytes, and so many for each packed one. Texts
/// are seldom packed to less than a twentieth.
const LEAST: u64 = 1 << 20;
const LEAST_OF_FILE: u64 = 64 << 10;
const RATIO: u64 = 64;
/// A larger archive is not looked into, in bytes.
const PACKED_LIMIT: u64 = 4 << 30;
/// Nor is one whose list of files is larger, or says that it has more of them: an entry takes 46 bytes and its name.
const LIST_LIMIT: u64 = 128 << 20;
const ENTRY_LIMIT: u64 = 1_000_000;
/// All archives of an audit: bytes unpacked, and files listed. Past that none of them counts.
const AUDIT_LIMIT: u64 = 4 << 30;
const AUDIT_ENTRIES: u64 = 20_000_000;

/// What all archives of an audit have taken so far. Whether it is too much does not depend on who came first.
#[derive(Debug, Default)]
pub(crate) struct Taken {
    bytes: AtomicU64,
    entries: AtomicU64,
}

impl Taken {
    /// Counts what was read in an earlier audit: what is too much does not depend on that.
    pub(crate) fn add(&self, effort: Effort) {
        self.bytes.fetch_add(effort.bytes, Ordering::Relaxed);
        self.entries.fetch_add(effort.entries, Ordering::Relaxed);
    }

    /// What is too much, as a clause that a sentence can end with.
    pub(crate) fn too_much(&self) -> Option<String> {
        if self.bytes.load(Ordering::Relaxed) > AUDIT_LIMIT {
            return Some(format!("the archives unpack to more than {} GiB together", AUDIT_LIMIT >> 30));
        }
        let entries = self.entries.load(Ordering::Relaxed);
        (entries > AUDIT_ENTRIES)
            .then(|| format!("the archives list more than {AUDIT_ENTRIES} files together"))
    }
}

/// What the reading of an archive has taken.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Effort {
    bytes: u64,
    entries: u64,
}

/// An archive that is open.
pub(crate) struct Archive<'a> {
    pub(super) zip: ZipArchive<BufReader<File>>,
    /// The path of the archive.
    pub(super) path: &'a str,
    /// What it is as a jar, if it is one.
    pub(super) jar: Option<Jar>,
    /// What was read in it.
    pub(super) ones: Vec<One>,
    /// How many bytes may still be unpacked.
    left: u64,
    taken: &'a Taken,
}

impl Claimed {
    /// Whether a file is an archive, by its path.
    pub(crate) fn is_archive(path: &str) -> bool {
        has_ending(path, ".jar") || has_ending(path, ".whl")
    }

    /// Opens an archive, and has all standards that look into it read what they look for.
    pub(crate) fn open(self, at: &Reading<'_>, path: &str, on_disk: &Path) -> Vec<One> {
        match open(at, path, on_disk) {
            Ok(Some(mut archive)) => {
                if has_ending(path, ".jar") {
                    archive.jar = Some(jar::look(at, &mut archive));
                }
                self.read_archive(at, &mut archive);
                if let Some(jar) = archive.jar.take() {
                    archive.ones.push(jar::itself(at, path, jar));
                }
                archive.ones
            }
            Ok(None) => Vec::new(),
            Err(why) => vec![One::plain(unreadable(path.to_owned(), &why, TroubleKind::Unreadable))],
        }
        .into_iter()
        .map(|one| one.read_by(at, self.first()))
        .collect()
    }
}

/// The class files in a jar.
#[derive(Default)]
pub(crate) struct Classes {
    /// Those that could be unpacked, with their paths in it.
    pub(crate) files: Vec<(String, Vec<u8>)>,
    /// What could not be.
    pub(crate) unread: Vec<One>,
    /// Whether that is all, and the same whatever else is read.
    pub(crate) are_all: bool,
    pub(crate) effort: Effort,
}

/// All class files in a jar.
pub(crate) fn classes(at: &Reading<'_>, path: &str, on_disk: &Path) -> Classes {
    // What is wrong with the jar itself is told by whoever reads it for what it is.
    let Ok(Some(mut archive)) = open(at, path, on_disk) else { return Classes::default() };
    let paths = archive.paths().into_iter().enumerate();
    // What stands in a method, and is called by a number, nobody else can name.
    let is_hidden = |path: &str| {
        let mut parts = path.rsplit('/').next().unwrap_or(path).split('$').skip(1);
        parts.any(|part| part.starts_with(|first: char| first.is_ascii_digit()))
    };
    let is_class =
        |path: &str| has_ending(path, ".class") && !path.starts_with("META-INF/") && !is_hidden(path);
    let wanted: Vec<(usize, String)> = paths.filter(|(_, path)| is_class(path)).collect();
    let classes = wanted.into_iter().filter_map(|(number, path)| {
        let bytes = archive.bytes(number, &path)?;
        Some((path, bytes))
    });
    let files: Vec<(String, Vec<u8>)> = classes.collect();
    let bytes = files.iter().map(|(_, bytes)| bytes.len() as u64).sum();
    let effort = Effort { bytes, entries: archive.zip.len() as u64 };
    let are_all = archive.ones.is_empty() && at.taken.too_much().is_none();
    Classes { files, unread: archive.ones, are_all, effort }
}

/// Opens an archive; `None`: there is too much in archives already.
fn open<'a>(at: &Reading<'a>, path: &'a str, on_disk: &Path) -> Result<Option<Archive<'a>>, String> {
    let (mut file, size) = files::open(on_disk).map_err(files::Refused::reason)?;
    if size > PACKED_LIMIT {
        return Err(format!("it is larger than {} GiB", PACKED_LIMIT >> 30));
    }
    directory::within(&mut file, size, LIST_LIMIT, ENTRY_LIMIT)?;
    if at.taken.too_much().is_some() {
        return Ok(None);
    }
    let zip = ZipArchive::new(BufReader::new(file));
    let zip = zip.map_err(|error| format!("it is no whole archive: {error}"))?;
    at.taken.entries.fetch_add(zip.len() as u64, Ordering::Relaxed);
    Ok(Some(Archive { zip, path, jar: None, ones: Vec::new(), left: left(size), taken: at.taken }))
}

impl<'a> Archive<'a> {
    /// An archive that was read, opened again to look closer; `None`: that fails.
    pub(super) fn again(on_disk: &Path, taken: &'a Taken) -> Option<Self> {
        let (file, size) = files::open(on_disk).ok()?;
        let zip = ZipArchive::new(BufReader::new(file)).ok()?;
        Some(Self { zip, path: "", jar: None, ones: Vec::new(), left: left(size), taken })
    }
}

/// How many bytes an archive may unpack to.
fn left(size: u64) -> u64 {
    (LEAST + RATIO * size).min(ARCHIVE_LIMIT)
}

impl Archive<'_> {
    /// The path of a file in the archive, as findings name it.
    fn inner(&self, path: &str) -> String {
        format!("{}!/{path}", self.path)
    }

    pub(super) fn name(&self, number: usize) -> Option<String> {
        self.zip.name_for_index(number)?.ok().map(std::borrow::Cow::into_owned)
    }

    pub(super) fn paths(&self) -> Vec<String> {
        (0..self.zip.len()).map(|number| self.name(number).unwrap_or_default()).collect()
    }

    /// What reading a file of the archive gives; a finding is noted if the program fails at it.
    pub(super) fn fenced<T>(&mut self, path: &str, read: impl FnOnce(&str) -> T) -> Option<T> {
        let inner = self.inner(path);
        match fenced(|| read(&inner)) {
            Ok(read) => Some(read),
            Err(why) => {
                self.ones.push(One::plain(unreadable(inner, &why, TroubleKind::Unreadable)));
                None
            }
        }
    }

    /// The bytes of a file; a finding is noted if there are too many, or they cannot be unpacked.
    pub(super) fn bytes(&mut self, number: usize, path: &str) -> Option<Vec<u8>> {
        if self.taken.too_much().is_some() {
            return None;
        }
        let mut limit = FILE_LIMIT.min(self.left);
        let mut bytes = Vec::new();
        let read = match self.zip.by_index(number) {
            Ok(file) => {
                limit = limit.min(LEAST_OF_FILE.saturating_add(RATIO.saturating_mul(file.compressed_size())));
                file.take(limit + 1).read_to_end(&mut bytes).map_err(|error| plain_reason(&error))
            }
            Err(error) => Err(error.to_string()),
        };
        self.taken.bytes.fetch_add(bytes.len() as u64, Ordering::Relaxed);
        let why = match read {
            Ok(_) if bytes.len() as u64 <= limit => {
                self.left -= bytes.len() as u64;
                return Some(bytes);
            }
            Ok(_) => {
                self.left -= limit;
                let limit = if limit < 1 << 20 { (limit >> 10, "KiB") } else { (limit >> 20, "MiB") };
                format!("it unpacks to more than {} {}, which no such file does", limit.0, limit.1)
            }
            Err(why) => format!("it cannot be unpacked: {why}"),
        };
        let manifest = unreadable(self.inner(path), &why, TroubleKind::Unreadable);
        self.ones.push(One::plain(manifest));
        None
    }

    pub(super) fn text(&mut self, number: usize, path: &str, at: &Reading<'_>) -> Option<Source> {
        let bytes = self.bytes(number, path)?;
        match source(self.inner(path), bytes, at.interner) {
            Ok(source) => Some(source),
            Err(manifest) => {
                self.ones.push(One::plain(*manifest));
                None
            }
        }
    }
}
