//! How far a long reading has come, for who shows it.

use std::sync::atomic::{AtomicUsize, Ordering};

/// How many files were found and how many of them were read so far. Shared by all reading threads.
#[derive(Debug, Default)]
pub struct Progress {
    found: AtomicUsize,
    read: AtomicUsize,
}

impl Progress {
    /// Says how many files are to be read.
    pub(crate) fn found(&self, files: usize) {
        self.found.store(files, Ordering::Relaxed);
    }

    /// Says that one more file was read.
    pub(crate) fn read_one(&self) {
        self.read.fetch_add(1, Ordering::Relaxed);
    }

    /// How many files were read, of how many; nothing while they are still looked for.
    pub fn files(&self) -> Option<(usize, usize)> {
        let found = self.found.load(Ordering::Relaxed);
        (found > 0).then(|| (self.read.load(Ordering::Relaxed), found))
    }
}
