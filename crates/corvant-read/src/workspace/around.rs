//! The files around one that is read, on disk or in memory.

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
}

impl Files for Folder<'_> {
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>> {
        if leads_out(path) {
            return None;
        }
        if let Some(text) = self.instead.and_then(|texts| texts.get(path)) {
            return Some(Ok(text.clone().into_bytes()));
        }
        match files::read(&self.root.join(path), TEXT_LIMIT) {
            Ok(bytes) => Some(Ok(bytes)),
            Err(Refused::Missing) => None,
            Err(Refused::Because(why)) => Some(Err(why)),
        }
    }

    fn has(&self, path: &str) -> bool {
        !leads_out(path) && self.root.join(path).exists()
    }

    fn list(&self, folder: &str) -> Vec<String> {
        if leads_out(folder) {
            return Vec::new();
        }
        let entries = std::fs::read_dir(self.root.join(folder)).into_iter().flatten().flatten();
        let mut paths: Vec<String> =
            entries.map(|entry| format!("{folder}/{}", entry.file_name().to_string_lossy())).collect();
        paths.sort_unstable();
        paths
    }

    fn on_disk(&self, path: &str) -> Option<PathBuf> {
        (!leads_out(path)).then(|| self.root.join(path))
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
