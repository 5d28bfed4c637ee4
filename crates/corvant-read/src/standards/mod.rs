//! Open standards: what is read without being custom.
//!
//! Each standard is a file or folder of its own here with one [`Standard`], which says what files it looks at and turns
//! them into facts. Naming it in `standards!` below is all it takes to have it read. They are switched on by what is
//! found, and off by name in the workspace file. [`archive`] opens archives, once for all standards that look into them.

pub(crate) mod archive;
mod directory;
mod jar;
mod java;

use crate::manifest::source;
use archive::Archive;
pub(crate) use archive::Taken;
use corvant_core::facts::{Facts, Header, Named, SourceKind};
use corvant_core::finding::BlindSpot;
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use corvant_core::wiring::Manifest;
use corvant_core::wording::{EditSort, Wording};
use std::path::{Component, Path, PathBuf};

/// An open standard.
pub(crate) trait Standard: Sync {
    /// Its name, as reports and the workspace file have it.
    fn name(&self) -> &'static str;

    /// Whether it looks at a file, by its path: several may look at one.
    fn claims(&self, path: &str) -> bool;

    /// Whether a file that cannot be read is surely one of those it looks at, and not of something else of that name.
    fn is_sure(&self, _path: &str) -> bool {
        true
    }

    /// Whether a file or folder of this name in a folder is installed there as the standard says: no ignore file
    /// hides it, nor the folder.
    fn installs(&self, _folder: &str, _name: &str) -> bool {
        false
    }

    /// What edits are called in its files; `{}` is what they are about.
    fn words(&self) -> &'static [(EditSort, &'static str)] {
        &[]
    }

    /// The world that files in a folder belong to, where the folder says so.
    fn world(&self, _folder: &str) -> Option<&'static str> {
        None
    }

    /// Reads a file that is no archive.
    fn read(&self, at: &Reading<'_>, path: &str, bytes: Vec<u8>) -> Vec<One>;

    /// Reads what it looks for in an archive that it claims.
    fn read_archive(&self, _at: &Reading<'_>, _archive: &mut Archive<'_>) {}
}

macro_rules! standards {
    ($($module:ident::$standard:ident),*) => {
        $(pub(crate) mod $module;)*

        static ALL: &[&dyn Standard] = &[$(&$module::$standard),*];

        /// The names of all standards, each with a line on what is read.
        pub(crate) const NAMES: [(&str, &str); ALL_COUNT] = [$(($module::NAME, $module::ABOUT)),*];
        const ALL_COUNT: usize = [$($module::NAME),*].len();
    };
}

standards! {
    provider_files::ProviderFiles, components::Components, entry_points::EntryPoints, activation_files::ActivationFiles
}

/// The standards that are read, by number a bit each.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Standards(u32);

impl Default for Standards {
    fn default() -> Self {
        Self::without(&[])
    }
}

impl Standards {
    /// All but some, by name.
    pub(crate) fn without(off: &[&'static str]) -> Self {
        let on = ALL.iter().enumerate().filter(|(_, standard)| !off.contains(&standard.name()));
        Self(on.fold(0, |bits, (number, _)| bits | 1 << number))
    }

    /// Those of them that look at a file, by its path; `None`: none does.
    pub(crate) fn claims(self, path: &str) -> Option<Claimed> {
        let claiming = self.all().filter(|(_, standard)| standard.claims(path));
        let bits = claiming.fold(0, |bits, (number, _)| bits | 1 << number);
        (bits != 0).then_some(Claimed(Self(bits)))
    }

    fn all(self) -> impl Iterator<Item = (usize, &'static dyn Standard)> {
        let on = move |(number, _): &(usize, _)| self.0 & (1 << number) != 0;
        ALL.iter().copied().enumerate().filter(on)
    }

    /// Whether any of them has a thing of this name installed in a folder.
    pub(crate) fn installs(self, folder: &str, name: &str) -> bool {
        self.all().any(|(_, standard)| standard.installs(folder, name))
    }

    /// Takes note of what edits are called in files of each of them.
    pub(crate) fn add_words(self, wording: &mut Wording) {
        for (_, standard) in self.all() {
            standard.words().iter().for_each(|(sort, words)| wording.add(standard.name(), *sort, words));
        }
    }

    /// The world that files in a folder belong to, as the first of them says.
    pub(crate) fn world(self, folder: &str) -> Option<&'static str> {
        self.all().find_map(|(_, standard)| standard.world(folder))
    }

    fn has(self, name: &str) -> bool {
        self.all().any(|(_, standard)| standard.name() == name)
    }
}

/// The standards that look at one file.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Claimed(Standards);

impl Claimed {
    /// The first of them: the one that is named where none could read the file.
    pub(crate) fn first(self) -> &'static str {
        self.0.all().next().map_or("", |(_, standard)| standard.name())
    }

    /// Whether a file that cannot be read is surely one for any of them.
    pub(crate) fn is_sure(self, path: &str) -> bool {
        self.0.all().any(|(_, standard)| standard.is_sure(path))
    }

    /// Has each of them read a file that is no archive.
    pub(crate) fn read(self, at: &Reading<'_>, path: &str, mut bytes: Vec<u8>) -> Vec<One> {
        let mut standards = self.0.all().map(|(_, standard)| standard).peekable();
        let mut ones = Vec::new();
        while let Some(standard) = standards.next() {
            let bytes = if standards.peek().is_some() { bytes.clone() } else { std::mem::take(&mut bytes) };
            let read = standard.read(at, path, bytes);
            ones.extend(read.into_iter().map(|one| one.read_by(at, standard.name())));
        }
        ones
    }

    fn read_archive(self, at: &Reading<'_>, archive: &mut Archive<'_>) {
        for (_, standard) in self.0.all() {
            standard.read_archive(at, archive);
        }
    }
}

/// One file that was read, with what is left to be settled once all are.
pub(crate) struct One {
    pub(crate) manifest: Manifest,
    pub(crate) extra: Option<components::Extra>,
    pub(crate) blind_spots: Vec<BlindSpot>,
}

impl One {
    pub(crate) fn plain(manifest: Manifest) -> Self {
        Self { manifest, extra: None, blind_spots: Vec::new() }
    }

    /// A file that a standard could not read is its file too.
    pub(crate) fn read_by(mut self, at: &Reading<'_>, standard: &str) -> Self {
        let header = &mut self.manifest.header;
        if header.reader.is_none() && header.kind == SourceKind::Manifest {
            header.reader = Some(at.interner.intern(standard));
        }
        self
    }
}

/// The files around one that is read.
pub(crate) trait Files: Sync {
    /// The bytes of a file; `None`: there is none; or why it cannot be read.
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>>;
    /// Whether there is a file, or anything that cannot be read as one.
    fn has(&self, path: &str) -> bool;
    /// The paths of the files and folders in a folder.
    fn list(&self, folder: &str) -> Vec<String>;
    /// Where a file lies on disk; `None`: on none.
    fn on_disk(&self, path: &str) -> Option<PathBuf>;
}

/// What standards have at hand when they read.
pub(crate) struct Reading<'a> {
    pub(crate) standards: Standards,
    pub(crate) interner: &'a Interner,
    pub(crate) files: &'a dyn Files,
    pub(crate) taken: &'a Taken,
}

impl Reading<'_> {
    fn named(&self, name: &str) -> Named {
        Named { name: self.interner.intern(name), span: Span::at(0) }
    }

    /// The header of a file that belongs to a module.
    fn header(&self, module: &str) -> Header {
        Header { module: Some(self.named(module)), ..Header::default() }
    }

    fn manifest(&self, source: Source, mut header: Header, facts: Facts, standard: &str) -> Manifest {
        header.reader = Some(self.interner.intern(standard));
        Manifest { source, header, facts }
    }

    /// The text of a file.
    fn text(&self, path: &str, bytes: Vec<u8>) -> Result<Source, Box<One>> {
        source(path.to_owned(), bytes, self.interner).map_err(|manifest| Box::new(One::plain(*manifest)))
    }
}

/// The folder that a file lies in, and its name in it.
fn parts(path: &str) -> (&str, &str) {
    path.rsplit_once('/').unwrap_or(("", path))
}

/// Whether a file has an ending and more.
fn has_ending(path: &str, ending: &str) -> bool {
    let (_, file) = parts(path);
    file.len() > ending.len() && file.ends_with(ending)
}

/// The folder some steps above a file.
fn folder_above(path: &str, steps: usize) -> String {
    let mut folder = path;
    for _ in 0..steps {
        folder = folder.rsplit_once('/').map_or("", |(folder, _)| folder);
    }
    if folder.is_empty() { ".".to_owned() } else { folder.to_owned() }
}

/// Whether a path that somebody else wrote leads out of where it is looked up.
pub(crate) fn leads_out(path: &str) -> bool {
    Path::new(path).components().any(|part| !matches!(part, Component::Normal(_) | Component::CurDir))
}
