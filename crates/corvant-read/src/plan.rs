//! Who reads what: the files of a workspace, and the reader that each of them belongs to.

use crate::carrier::Carrier;
use crate::native::workspace_file::{self, Settings};
use crate::scope::Scope;
use crate::standards::{Kind, Standards};
use crate::taught::Taught;
use corvant_core::finding::{BlindSpot, BlindSpotKind};

/// Which files are read, and by whom.
#[derive(Debug, Default)]
pub struct Plan {
    /// Which paths are looked at.
    pub scope: Scope,
    pub(crate) readers: Vec<Taught>,
    pub(crate) standards: Standards,
}

/// Who reads a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Claim {
    /// It is in Corvant's own format.
    Native,
    /// A taught reader, by its number.
    Taught(usize),
    /// A reader for an open standard.
    Standard(Kind),
}

impl Plan {
    /// The plan that a workspace file makes.
    pub fn new(settings: &mut Settings) -> Self {
        let standards = Standards::without(&settings.standards_off);
        Self { scope: Scope::new(settings), readers: std::mem::take(&mut settings.readers), standards }
    }

    /// Who reads a file; readers that the workspace teaches go first. `None`: nobody.
    pub(crate) fn claim(&self, path: &str) -> Option<Claim> {
        if path == workspace_file::NAME {
            return None;
        }
        let taught = || self.readers.iter().position(|reader| reader.is_for(path)).map(Claim::Taught);
        let native = || Carrier::of_manifest(path).map(|_| Claim::Native);
        let standard = || self.standards.kind_of(path).map(Claim::Standard);
        taught().or_else(native).or_else(standard)
    }

    /// Whether anybody reads a file.
    pub fn is_wanted(&self, path: &str) -> bool {
        self.claim(path).is_some()
    }

    /// The number of a taught reader and of another reader that is for the same file; for Corvant's own format
    /// there is no number.
    pub(crate) fn rivals(&self, path: &str) -> Option<(usize, Option<usize>)> {
        if path == workspace_file::NAME {
            return None;
        }
        let mut taught = self.readers.iter().enumerate().filter(|(_, reader)| reader.is_for(path));
        let (first, _) = taught.next()?;
        match taught.next() {
            Some((second, _)) => Some((second, Some(first))),
            None => Carrier::of_manifest(path).map(|_| (first, None)),
        }
    }

    /// A blind spot for each taught reader that no file is for.
    pub(crate) fn idle_readers<'path>(&self, paths: impl Iterator<Item = &'path str>) -> Vec<BlindSpot> {
        if self.readers.is_empty() {
            return Vec::new();
        }
        let mut busy = vec![false; self.readers.len()];
        for path in paths {
            if let Some(Claim::Taught(number)) = self.claim(path) {
                busy[number] = true;
            }
        }
        let idle = self.readers.iter().zip(busy).filter(|(_, busy)| !busy).map(|(reader, _)| reader);
        idle.map(|reader| {
            let globs: Vec<&str> = reader.globs.iter().map(globset::Glob::glob).collect();
            BlindSpot {
                kind: BlindSpotKind::IdleReader,
                subject: reader.name.clone(),
                message: format!("no file is called {}: this reader reads nothing", globs.join(" or ")),
                places: Vec::new(),
            }
        })
        .collect()
    }
}
