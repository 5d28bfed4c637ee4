//! What files of code declare, known again by the texts that they were read from.

use super::{Cache, Twice, read, twice};
use crate::types::outline::Outline;
use crate::types::{CodeFile, Language, Methods};
use std::collections::HashMap;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};

/// As many outlines of texts that are not there any more stay, for who goes to and fro between states.
const OLD: usize = 32;

/// What a few files declare that are read together.
#[derive(Debug)]
pub(crate) struct Outlines<'a> {
    cache: &'a Cache,
    file: PathBuf,
    /// What was kept and is not asked for yet.
    known: Mutex<HashMap<Twice, Outline>>,
    /// By path the text that was read.
    read: Mutex<HashMap<String, Twice>>,
    has_more: AtomicBool,
}

impl Cache {
    /// What was kept of files that are read together, by their paths from the root.
    pub(crate) fn outlines<'p>(&self, paths: impl Iterator<Item = &'p str>) -> Outlines<'_> {
        let paths: Vec<&str> = paths.collect();
        let file = self.file("outlines", paths.join("\n").as_bytes());
        let known: Vec<(Twice, Outline)> = read(&file).unwrap_or_default();
        Outlines {
            cache: self,
            file,
            known: Mutex::new(known.into_iter().collect()),
            read: Mutex::default(),
            has_more: AtomicBool::new(false),
        }
    }
}

impl Outlines<'_> {
    /// As what a text is known, read in a way; the scope is what its place says.
    pub(crate) fn key(text: &str, (language, methods): (Language, Methods), scope: &str) -> Twice {
        twice((text, language as u8, methods as u8, scope))
    }

    /// What a file declares, if its text was read before.
    pub(crate) fn find(&self, path: &str, key: Twice) -> Option<Outline> {
        let found = self.known.lock().unwrap_or_else(PoisonError::into_inner).remove(&key)?;
        self.note(path, key);
        Some(found)
    }

    /// A file was read, of which there is no doubt what it declares.
    pub(crate) fn add(&self, path: &str, key: Twice) {
        self.note(path, key);
        self.has_more.store(true, Ordering::Relaxed);
    }

    fn note(&self, path: &str, key: Twice) {
        self.read.lock().unwrap_or_else(PoisonError::into_inner).insert(path.to_owned(), key);
    }

    /// Keeps what is new for the next time.
    pub(crate) fn keep<'c>(self, files: impl Iterator<Item = &'c CodeFile>) {
        if !self.has_more.into_inner() {
            return;
        }
        let read = self.read.into_inner().unwrap_or_else(PoisonError::into_inner);
        let known = self.known.into_inner().unwrap_or_else(PoisonError::into_inner);
        let now = files.filter_map(|file| Some((*read.get(&file.path)?, &file.outline)));
        let old = known.iter().take(OLD).map(|(key, outline)| (*key, outline));
        self.cache.write(&self.file, &now.chain(old).collect::<Vec<(Twice, &Outline)>>());
    }
}
