//! Who reads what: the files of a workspace, and the reader that each of them belongs to.

use crate::custom::{CustomReader, FolderFiles};
use crate::named::NamedPaths;
use crate::native::workspace_file::{self, ScopeFolder, Settings};
use crate::scope::Scope;
use crate::standards::{Claimed, Standards};
use crate::syntax::ManifestSyntax;
use crate::types::wires::Wires;
use crate::types::{self, Language};
use corvant_core::facts::Trouble;
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use globset::{GlobSet, GlobSetBuilder};
use regex::Regex;
use std::ffi::OsStr;

/// Which files are read, and by whom.
#[derive(Debug, Default)]
pub struct Plan {
    /// Which paths are looked at.
    pub scope: Scope,
    /// Files in the order in which they are read.
    order: GlobSet,
    /// Code whose types are known, and by glob the module that a file belongs to.
    types: GlobSet,
    modules_of_types: Vec<Option<Regex>>,
    /// Folders below which the types of a scope must lie.
    pub(crate) scope_folders: Vec<ScopeFolder>,
    /// What types and marks stand for.
    pub(crate) wires: Wires,
    /// What nothing hides.
    pub(crate) named: NamedPaths,
    pub(crate) readers: Vec<CustomReader>,
    /// The globs of all readers, and by glob the number of its reader.
    files: GlobSet,
    reader_of: Vec<usize>,
    pub(crate) standards: Standards,
    /// What files say for their folders, where a custom reader asks.
    pub(crate) folders: FolderFiles,
    /// Whether somebody looks at every file, whoever reads it.
    everything: bool,
}

/// What the path that a file is come to by says of it, where that is more than where it is: one file may lie in several
/// worlds.
pub(crate) type World = Option<&'static str>;

/// Who reads a file.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Claim {
    /// It is in Corvant's own format.
    Native,
    /// A custom reader, by its number.
    Custom(usize),
    /// Readers for open standards.
    Standard(Claimed),
    /// It is code that declares types.
    Types(Language),
}

impl Plan {
    /// The plan that a workspace file makes.
    pub fn new(settings: &mut Settings) -> Self {
        let standards = Standards::without(&settings.standards_off);
        standards.add_words(&mut settings.policy.wording);
        let mut readers = std::mem::take(&mut settings.readers);
        for reader in &mut readers {
            reader.lifetimes.clone_from(&settings.policy.lifetimes.order);
            let words = reader.words.iter();
            words.for_each(|(sort, words)| settings.policy.wording.add(&reader.name, *sort, words));
        }
        let (mut files, mut reader_of) = (GlobSetBuilder::new(), Vec::new());
        for (number, reader) in readers.iter().enumerate() {
            for glob in &reader.globs {
                files.add(glob.clone());
                reader_of.push(number);
            }
        }
        let members = settings.members.iter().flatten();
        let of_readers = readers.iter().flat_map(|reader| &reader.globs);
        let of_types = settings.types.iter().flat_map(|types| &types.globs);
        let named = NamedPaths::new(members, of_readers.chain(of_types));
        let (mut types, mut modules_of_types) = (GlobSetBuilder::new(), Vec::new());
        for of in &settings.types {
            for glob in &of.globs {
                types.add(glob.clone());
                modules_of_types.push(of.module.clone());
            }
        }
        let types = types.build().unwrap_or_default();
        let mut order = GlobSetBuilder::new();
        for glob in &settings.order {
            order.add(glob.clone());
        }
        let order = order.build().unwrap_or_default();
        // Each glob was compiled when it was read.
        let files = files.build().unwrap_or_default();
        let (scope, folders) = (Scope::new(settings), FolderFiles::default());
        let wires = std::mem::take(&mut settings.wires);
        Self {
            scope,
            order,
            types,
            modules_of_types,
            scope_folders: settings.types.iter().flat_map(|of| of.folders.iter().cloned()).collect(),
            wires,
            named,
            readers,
            files,
            reader_of,
            standards,
            folders,
            everything: false,
        }
    }

    /// The numbers of the custom readers that are for a file, in their order.
    fn readers_of(&self, path: &str) -> Vec<usize> {
        let mut readers: Vec<usize> =
            self.files.matches(path).into_iter().map(|glob| self.reader_of[glob]).collect();
        readers.sort_unstable();
        readers.dedup();
        readers
    }

    /// Who reads a file; readers that the workspace teaches go first. `None`: none does.
    pub(crate) fn claim(&self, path: &str) -> Option<Claim> {
        if path == workspace_file::NAME {
            return None;
        }
        let custom = || self.readers_of(path).first().copied().map(Claim::Custom);
        let native = || ManifestSyntax::of_manifest(path).map(|_| Claim::Native);
        let standard = || self.standards.claims(path).map(Claim::Standard);
        // A jar is more than the types in it.
        if Claimed::is_archive(path) {
            return custom().or_else(standard).or_else(|| self.types_of(path));
        }
        custom().or_else(native).or_else(|| self.types_of(path)).or_else(standard)
    }

    pub(crate) fn types_of(&self, path: &str) -> Option<Claim> {
        let is_named = !self.types.is_empty() && self.types.is_match(path);
        is_named.then(|| Language::of_ending(path).map(Claim::Types)).flatten()
    }

    /// The module that a file of code belongs to.
    pub(crate) fn module_of_types(&self, path: &str) -> Option<String> {
        let regexes =
            self.types.matches(path).into_iter().filter_map(|glob| self.modules_of_types[glob].as_ref());
        let captures = regexes.filter_map(|regex| regex.captures(path));
        captures
            .filter_map(|captures| captures.name("module"))
            .map(|module| module.as_str().to_owned())
            .next()
    }

    /// Whether an open standard has a thing installed in a folder.
    pub(crate) fn installs(&self, folder: &str, name: &OsStr) -> bool {
        name.to_str().is_some_and(|name| self.standards.installs(folder, name))
    }

    /// Whether a file of that name is surely meant for somebody who reads it.
    pub(crate) fn is_sure(&self, path: &str) -> bool {
        match self.claim(path) {
            Some(Claim::Standard(claimed)) => claimed.is_sure(path),
            Some(Claim::Native | Claim::Custom(_) | Claim::Types(_)) => true,
            None => false,
        }
    }

    /// Where a file stands in the order that the workspace file gives, by its path or its module; 0: before all that it
    /// names.
    pub(crate) fn rank(&self, path: &str, module: impl FnOnce() -> Option<String>) -> u32 {
        if self.order.is_empty() {
            return 0;
        }
        let of = |name: &str| self.order.matches(name).last().map_or(0, |&glob| glob as u32 + 1);
        of(path).max(module().map_or(0, |module| of(&module)))
    }

    /// The world that a folder belongs to.
    pub(crate) fn world(&self, folder: &str) -> World {
        self.standards.world(folder)
    }

    /// A plan in which every file is looked at, and read by nobody.
    pub(crate) fn of_everything() -> Self {
        Self { everything: true, ..Self::default() }
    }

    /// Whether anybody reads a file.
    pub fn is_wanted(&self, path: &str) -> bool {
        self.everything || self.claim(path).is_some()
    }

    /// The number of a custom reader and of another reader that is for the same file; for Corvant's own format
    /// there is no number.
    pub(crate) fn rivals(&self, path: &str) -> Option<(usize, Option<usize>)> {
        if path == workspace_file::NAME {
            return None;
        }
        match self.readers_of(path).as_slice() {
            [] => None,
            [first] => ManifestSyntax::of_manifest(path).map(|_| (*first, None)),
            [first, second, ..] => Some((*second, Some(*first))),
        }
    }

    /// By custom reader whether any file is for it.
    fn busy<'path>(&self, paths: impl Iterator<Item = &'path str>) -> Vec<bool> {
        let mut busy = vec![false; self.readers.len()];
        for path in paths {
            if let Some(Claim::Custom(number)) = self.claim(path) {
                busy[number] = true;
            }
        }
        busy
    }

    /// What readers look for in vain, once all files are read; of a reader with a file that could not be, nothing is known.
    pub(crate) fn idle_paths<'path>(&self, unread: impl Iterator<Item = &'path str>) -> Vec<Trouble> {
        let certain = self.readers.iter().zip(self.busy(unread)).filter(|(_, has_unread)| !has_unread);
        certain.flat_map(|(reader, _)| reader.idle_paths()).collect()
    }

    /// A blind spot where the workspace file names code and there is none.
    pub(crate) fn idle_types<'path>(&self, mut paths: impl Iterator<Item = &'path str>) -> Option<BlindSpot> {
        // What a reader takes from code is in the index too.
        let has_types = |path: &str| self.types_of(path).is_some();
        (!self.types.is_empty() && !paths.any(has_types)).then(|| BlindSpot {
            kind: BlindSpotKind::IdleReader,
            subject: types::READER.to_owned(),
            message: "none of the files named there is code that declares types: no types are known"
                .to_owned(),
            places: Vec::new(),
        })
    }

    /// A blind spot for each custom reader that no file is for.
    pub(crate) fn idle_readers<'path>(&self, paths: impl Iterator<Item = &'path str>) -> Vec<BlindSpot> {
        if self.readers.is_empty() {
            return Vec::new();
        }
        let busy = self.busy(paths);
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
