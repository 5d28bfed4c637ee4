//! Laying out files of a revision in a folder.

use super::tree::{Entry, Link};
use super::{Checkout, LARGEST, POINTER, Repository, Revision, RevisionError, unseen};
use corvant_core::finding::BlindSpot;
use rayon::prelude::*;
use std::collections::{HashMap, HashSet};
use std::fs;
use std::io;
use std::path::{Path, PathBuf};

/// Fewer files than this are not worth another process.
const FEW: usize = 200;

/// Files that are being laid out.
pub(super) struct Taking<'a> {
    pub(super) repository: &'a Repository,
    pub(super) revision: &'a Revision,
    pub(super) top: &'a Path,
    pub(super) twin: Option<&'a Checkout>,
    pub(super) laid_out: HashMap<PathBuf, String>,
    pub(super) blind_spots: Vec<BlindSpot>,
}

impl Taking<'_> {
    /// Lays out files, which have such sizes.
    pub(super) fn take(&mut self, wanted: &[(&Entry, u64)]) -> Result<(), RevisionError> {
        let (large, wanted): (Vec<_>, Vec<_>) = wanted.iter().partition(|(_, size)| *size > LARGEST);
        for (entry, _) in large {
            self.tell(entry, "it is larger than 512 MiB");
        }
        let entries: Vec<&Entry> = wanted.into_iter().map(|(entry, _)| entry).collect();
        self.make_folders(&entries)?;
        let entries: Vec<&Entry> = entries.into_iter().filter(|entry| !self.link_to_twin(entry)).collect();
        // The program unpacks on one thread: as many of it run as there are threads.
        let few = entries.len().div_ceil(rayon::current_num_threads()).max(FEW);
        let parts: Result<Vec<_>, RevisionError> =
            entries.par_chunks(few).map(|few| self.write(few)).collect();
        for (entry, is_there) in entries.iter().zip(parts?.into_iter().flatten()) {
            if is_there {
                self.laid_out.insert(entry.on_disk.clone(), entry.id.clone());
            } else {
                self.tell(entry, "it only names a large file, whose contents are kept elsewhere");
            }
        }
        Ok(())
    }

    /// Makes the folders that files are in.
    fn make_folders(&self, of: &[&Entry]) -> Result<(), RevisionError> {
        let mut made: HashSet<&Path> = HashSet::new();
        for folder in of.iter().filter_map(|entry| entry.on_disk.parent()) {
            if made.insert(folder) {
                fs::create_dir_all(self.top.join(folder))?;
            }
        }
        Ok(())
    }

    /// Makes files with nothing in them. They are one file by many names, which takes half as long to make and to take away
    /// as many.
    pub(super) fn leave_empty(&self, entries: &[&Entry]) -> Result<(), RevisionError> {
        self.make_folders(entries)?;
        let Some((first, others)) = entries.split_first() else { return Ok(()) };
        let first = self.top.join(&first.on_disk);
        fs::write(&first, "")?;
        let made = others.par_iter().map(|entry| {
            let path = self.top.join(&entry.on_disk);
            // A file has but so many names.
            fs::hard_link(&first, &path).or_else(|_| fs::write(&path, ""))
        });
        Ok(made.collect::<io::Result<()>>()?)
    }

    /// Writes files; of each whether it is there now, or only names one that is kept elsewhere.
    fn write(&self, entries: &[&Entry]) -> Result<Vec<bool>, RevisionError> {
        let mut written = Vec::with_capacity(entries.len());
        let ids: Vec<&str> = entries.iter().map(|entry| entry.id.as_str()).collect();
        self.repository.program.blobs(&ids, |number, bytes| {
            let entry = entries[number];
            let bytes = bytes.map_err(|reason| RevisionError::Lacking {
                revision: self.revision.name.clone(),
                path: self.repository.inside(entry).unwrap_or(&entry.path).to_owned(),
                reason,
            })?;
            let is_there = !bytes.starts_with(POINTER);
            if is_there {
                fs::write(self.top.join(&entry.on_disk), bytes)?;
            }
            written.push(is_there);
            Ok(())
        })?;
        Ok(written)
    }

    /// Whether a file is the same in the twin, and is now here too.
    fn link_to_twin(&mut self, entry: &Entry) -> bool {
        let twin = self.twin.filter(|twin| twin.laid_out.get(&entry.on_disk) == Some(&entry.id));
        let is_linked = twin.is_some_and(|twin| {
            fs::hard_link(twin.top().join(&entry.on_disk), self.top.join(&entry.on_disk)).is_ok()
        });
        if is_linked {
            self.laid_out.insert(entry.on_disk.clone(), entry.id.clone());
        }
        is_linked
    }

    /// Lays out links that stay inside.
    pub(super) fn link(&mut self, links: &[Link<'_>]) -> Result<(), RevisionError> {
        for link in links {
            match link.leads_to() {
                Some(_) => self.make_link(link.entry, &link.target)?,
                None => self.tell(link.entry, "it is a link that leads out of the revision"),
            }
        }
        Ok(())
    }

    #[cfg(unix)]
    fn make_link(&self, entry: &Entry, target: &str) -> Result<(), RevisionError> {
        let path = self.top.join(&entry.on_disk);
        fs::create_dir_all(path.parent().unwrap_or(self.top))?;
        Ok(std::os::unix::fs::symlink(target, path)?)
    }

    #[cfg(not(unix))]
    fn make_link(&mut self, entry: &Entry, _: &str) -> Result<(), RevisionError> {
        self.tell(entry, "it is a link, which is not made on this system");
        Ok(())
    }

    /// Says that a file below the root is not there.
    fn tell(&mut self, entry: &Entry, why: &str) {
        if let Some(path) = self.repository.inside(entry) {
            self.blind_spots.push(unseen(path, why));
        }
    }
}
