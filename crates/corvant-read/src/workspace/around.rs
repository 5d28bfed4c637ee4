//! The files around one that is read, on disk or in memory.

use crate::cache::Consulting;
use crate::files::{self, Refused, TEXT_LIMIT};
use crate::mend::Texts;
use crate::standards::{Files, leads_out};
use foldhash::HashMap;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// The files of a workspace on disk.
pub(super) struct Folder<'a> {
    pub(super) root: &'a Path,
    /// Texts that files have instead of what is on disk.
    pub(super) instead: Option<&'a Texts>,
    /// Who takes note of what is looked for.
    pub(super) consulting: Option<Consulting<'a>>,
}

impl Folder<'_> {
    /// The path on disk of what is looked for.
    fn at(&self, path: &str) -> Option<PathBuf> {
        if leads_out(path) {
            return None;
        }
        if let Some(consulting) = self.consulting {
            consulting.note(path);
        }
        Some(self.root.join(path))
    }
}

impl Files for Folder<'_> {
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>> {
        let at = self.at(path)?;
        if let Some(text) = self.instead.and_then(|texts| texts.get(path)) {
            return Some(Ok(text.text.clone().into_bytes()));
        }
        match files::read(&at, TEXT_LIMIT) {
            Ok(bytes) => Some(Ok(bytes)),
            Err(Refused::Missing) => None,
            Err(Refused::Because(why)) => Some(Err(why)),
        }
    }

    fn has(&self, path: &str) -> bool {
        self.at(path).is_some_and(|at| at.exists())
    }

    fn list(&self, folder: &str) -> Vec<String> {
        let Some(at) = self.at(folder) else { return Vec::new() };
        let entries = std::fs::read_dir(at).into_iter().flatten().flatten();
        let mut paths: Vec<String> =
            entries.map(|entry| format!("{folder}/{}", entry.file_name().to_string_lossy())).collect();
        paths.sort_unstable();
        paths
    }

    fn on_disk(&self, path: &str) -> Option<PathBuf> {
        self.at(path)
    }
}

/// The files of a workspace in memory.
pub(super) struct InMemory<'text>(pub(super) HashMap<&'text str, &'text str>);

impl Files for InMemory<'_> {
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>> {
        self.0.get(path).map(|text| Ok(text.as_bytes().to_vec()))
    }

    fn has(&self, path: &str) -> bool {
        self.0.contains_key(path)
    }

    fn list(&self, folder: &str) -> Vec<String> {
        let is_root = folder == ".";
        let inside = |path: &&str| {
            let rest = if is_root {
                Some(*path)
            } else {
                path.strip_prefix(folder).and_then(|rest| rest.strip_prefix('/'))
            };
            rest?.split('/').next().map(str::to_owned)
        };
        let names: BTreeSet<String> = self.0.keys().filter_map(inside).collect();
        names.into_iter().map(|name| format!("{folder}/{name}")).collect()
    }

    fn on_disk(&self, _: &str) -> Option<PathBuf> {
        None
    }
}
