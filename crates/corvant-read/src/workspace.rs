//! A whole workspace: every manifest below a folder, read on all threads.

use crate::custom::account;
use crate::custom::declaration;
use crate::discover::{self, Discovery, FoundFile};
use crate::fence::fenced;
use crate::files::{self, Refused, TEXT_LIMIT};
use crate::manifest;
use crate::native::workspace_file::{self, Settings};
use crate::plan::{Claim, Plan};
use crate::progress::Progress;
use crate::standards::{Files, One, Standard, StandardFile, Taken, components, leads_out};
use crate::syntax::toml;
use corvant_core::account::{Account, LeftOver};
use corvant_core::facts::{Header, SourceKind, Trouble, TroubleKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::{Interner, Name, Names};
use corvant_core::source::{Position, Source};
use corvant_core::wiring::{Manifest, Policy};
use foldhash::HashMap;
use globset::Glob;
use rayon::prelude::*;
use std::path::Path;

/// Files that share an interner at most: one of their names fits into a cache.
const TOGETHER: usize = 32;
/// What is wrong with files is told one by one as long as it is not more than this in all; past that once a file and kind.
const TROUBLE_LIMIT: usize = 100_000;

/// What was read.
#[derive(Debug)]
pub struct Workspace {
    /// Manifests, and folders that could not be looked into, in the order of their paths.
    pub manifests: Vec<Manifest>,
    /// All names in them.
    pub names: Names,
    /// What the workspace decides for all modules.
    pub policy: Policy,
    /// What was seen and not read.
    pub blind_spots: Vec<BlindSpot>,
}

/// Why a workspace cannot be read at all.
#[derive(Debug, thiserror::Error)]
pub enum WorkspaceError {
    /// The folder is not there, or is no folder.
    #[error("{path} is not a folder that can be read: {reason}")]
    NoFolder {
        /// The folder.
        path: String,
        /// What is wrong with it.
        reason: String,
    },
    /// The workspace file cannot be read, so nothing can be said of the workspace.
    #[error("the workspace file cannot be used: {at}: {reason}")]
    BrokenFile {
        /// The file, with line and column where they are known.
        at: String,
        /// What is wrong with it.
        reason: String,
    },
    /// Readers that the workspace file teaches have mistakes: what they would miss could not be told from what is
    /// missing.
    #[error("the workspace file describes readers that cannot be used:\n{mistakes}")]
    BrokenReaders {
        /// The mistakes, each on a line of its own, with line and column.
        mistakes: String,
    },
    /// There is no manifest below it.
    #[error(
        "no manifest was found below {path}: looked for files named *.wiring.yaml, *.wiring.yml, *.wiring.json and *.wiring.toml{readers}, and for those of open standards"
    )]
    NothingFound {
        /// The folder, and what of it is looked at.
        path: String,
        /// What custom readers look for, if there are any.
        readers: String,
    },
}

/// Reads every manifest below a folder, as the workspace file in it says. Manifests that cannot be read are
/// findings later on; a broken workspace file is an error, and so is a folder without any manifest.
pub fn read(root: &Path) -> Result<Workspace, WorkspaceError> {
    read_watched(root, &Progress::default())
}

/// The same, and says how far it has come.
pub fn read_watched(root: &Path, progress: &Progress) -> Result<Workspace, WorkspaceError> {
    Ok(read_folder(root, false, progress)?.0)
}

/// Says of every file below a folder who reads it, what is taken from it and what is left over; and what was not
/// looked at, such as readers that no file is for.
pub fn explain(root: &Path) -> Result<(Vec<Account>, Vec<BlindSpot>), WorkspaceError> {
    let (workspace, accounts) = read_folder(root, true, &Progress::default())?;
    Ok((accounts, workspace.blind_spots))
}

fn read_folder(
    root: &Path,
    explain: bool,
    progress: &Progress,
) -> Result<(Workspace, Vec<Account>), WorkspaceError> {
    let path = root.display().to_string();
    if let Err(error) = std::fs::read_dir(root) {
        return Err(WorkspaceError::NoFolder { path, reason: files::plain_reason(&error) });
    }
    let of_file = Interner::default();
    let (mut settings, mut file) = match read_settings(root)? {
        Some(text) => workspace_file(text, &of_file)?,
        None => Default::default(),
    };
    let plan = Plan::new(&mut settings);
    let found = discover::discover(root, &plan);
    let mut blind_spots =
        seen(&plan, file.as_ref(), found.manifests.iter().map(|file| file.relative.as_str()))?;
    blind_spots.extend(found.unread_ignore_files.iter().map(|(path, why)| BlindSpot {
        kind: BlindSpotKind::UnreadIgnoreFile,
        subject: path.clone(),
        message: format!("the ignore file hides nothing: {why}"),
        places: Vec::new(),
    }));
    let taken = Taken::default();
    let reading = Reading { plan: &plan, interner: &of_file, files: &Folder(root), taken: &taken, explain };
    let (mut read, mut interners) = read_all(&found, reading, progress);
    let too_much = taken.too_much();
    if too_much.is_some() {
        drop_archives(&plan, &mut read);
    }
    interners.push(of_file);
    let interner = merge_names(interners, &mut read, file.as_mut());
    let (mut manifests, accounts) = taken_apart(read, &interner, &mut blind_spots);
    manifests.extend(troubled(&found));
    manifests.extend(too_much.map(|why| {
        let why = format!("{why}: nothing of what is in them was looked at");
        manifest::unreadable(".".to_owned(), &why, TroubleKind::Unreadable)
    }));
    // Archives without anything in them, and files that only have the name of something, are nothing to audit.
    if manifests.iter().all(|one| one.header.kind != SourceKind::Manifest && one.facts.troubles.is_empty()) {
        let members = settings.members.map_or("", |_| " in the members that corvant.toml names");
        let globs: Vec<&str> = plan.readers.iter().flat_map(|reader| &reader.globs).map(Glob::glob).collect();
        let readers =
            if globs.is_empty() { String::new() } else { format!(", for readers' {}", globs.join(", ")) };
        return Err(WorkspaceError::NothingFound { path: path + members, readers });
    }
    manifests.extend(file);
    Ok((Workspace { manifests, names: interner.freeze(), policy: settings.policy, blind_spots }, accounts))
}

/// Reads all files on all threads, a few at a time; with each few the interner of their names.
fn read_all(
    found: &Discovery,
    reading: Reading<'_>,
    progress: &Progress,
) -> (Vec<Vec<OneRead>>, Vec<Interner>) {
    let files = &found.manifests;
    progress.found(files.len());
    // Every thread has several to do, so that none is left with a long one at the end.
    let few = (files.len() / (rayon::current_num_threads() * 8)).clamp(1, TOGETHER);
    let read = files.par_chunks(few).map(|files| {
        let interner = Interner::default();
        let reading = Reading { interner: &interner, ..reading };
        let read = files.iter().flat_map(|file| {
            let read = reading.file(file);
            progress.read_one();
            read
        });
        let read: Vec<OneRead> = read.collect();
        (read, interner)
    });
    read.unzip()
}

/// Takes away what was read in archives: how much of it there is depends on which of them were read first.
fn drop_archives(plan: &Plan, read: &mut [Vec<OneRead>]) {
    let is_archive = |path: &str| {
        path.contains("!/")
            || matches!(plan.claim(path), Some(Claim::Standard(StandardFile::Jar | StandardFile::Wheel)))
    };
    read.par_iter_mut().for_each(|read| read.retain(|read| !is_archive(&read.one.manifest.source.path)));
}

/// One interner out of those of a few files each, the last of which is the workspace file's; all that was read is
/// given the names that are in it.
fn merge_names(interners: Vec<Interner>, read: &mut [Vec<OneRead>], file: Option<&mut Manifest>) -> Interner {
    let (interner, mut renamings) = Interner::merge(interners);
    if let (Some(file), Some(renaming)) = (file, renamings.pop()) {
        file.rename(&renaming);
    }
    read.par_iter_mut().zip(&renamings).for_each(|(read, renaming)| {
        for read in read {
            read.one.manifest.rename(renaming);
        }
    });
    interner
}

/// A workspace out of texts in memory: pairs of path and text. One of them may be the workspace file.
pub fn from_texts<'text>(
    texts: impl IntoIterator<Item = (&'text str, &'text str)>,
) -> Result<Workspace, WorkspaceError> {
    let interner = Interner::default();
    let (file, manifests): (Vec<_>, Vec<_>) =
        texts.into_iter().partition(|(path, _)| *path == workspace_file::NAME);
    let (mut settings, file) = match file.first() {
        Some((_, text)) => workspace_file((*text).to_owned(), &interner)?,
        None => Default::default(),
    };
    let plan = Plan::new(&mut settings);
    let manifests: Vec<_> = manifests.into_iter().filter(|(path, _)| plan.scope.includes(path)).collect();
    let around = Texts(manifests.iter().copied().collect());
    let included: Vec<_> = manifests.into_iter().filter(|(path, _)| plan.is_wanted(path)).collect();
    let mut blind_spots = seen(&plan, file.as_ref(), included.iter().map(|(path, _)| *path))?;
    let taken = Taken::default();
    let reading = Reading { plan: &plan, interner: &interner, files: &around, taken: &taken, explain: false };
    let read = included.into_iter().map(|(path, text)| {
        let bytes = text.as_bytes().to_vec();
        fenced(|| reading.bytes(path, bytes)).unwrap_or_else(|why| reading.failed(path, &why))
    });
    let (mut manifests, _) = taken_apart(read.collect(), &interner, &mut blind_spots);
    manifests.extend(file);
    Ok(Workspace { manifests, names: interner.freeze(), policy: settings.policy, blind_spots })
}

/// What can be said of the files before they are read: which members and readers have none. That two readers are
/// for one file is an error.
fn seen<'path>(
    plan: &Plan,
    file: Option<&Manifest>,
    paths: impl Iterator<Item = &'path str> + Clone,
) -> Result<Vec<BlindSpot>, WorkspaceError> {
    if !plan.readers.is_empty() {
        for path in paths.clone() {
            let Some((reader, other)) = plan.rivals(path) else { continue };
            let reader = &plan.readers[reader];
            let other = match other {
                Some(other) => format!("the reader {}", plan.readers[other].name),
                None => "Corvant's own format".to_owned(),
            };
            let Position { line, column } =
                file.map_or(Position { line: 1, column: 1 }, |file| file.source.position(reader.at.start));
            return Err(WorkspaceError::BrokenFile {
                at: format!("{}:{line}:{column}", workspace_file::NAME),
                reason: format!(
                    "the reader {} is for {path}, and so is {other}: narrow the `files` of one",
                    reader.name
                ),
            });
        }
    }
    let mut spots = plan.scope.empty_members(paths.clone());
    spots.extend(plan.idle_readers(paths));
    Ok(spots)
}

/// Manifests and accounts; what can be settled only now that all files are read is settled.
fn taken_apart(
    read: Vec<Vec<OneRead>>,
    interner: &Interner,
    blind_spots: &mut Vec<BlindSpot>,
) -> (Vec<Manifest>, Vec<Account>) {
    let mut accounts = Vec::new();
    let mut extras = Vec::new();
    let mut manifests = Vec::with_capacity(read.iter().map(Vec::len).sum());
    let mut troubles = 0;
    for OneRead { mut one, account } in read.into_iter().flatten() {
        if troubles >= TROUBLE_LIMIT {
            one.manifest.facts.tell_together();
        }
        troubles += one.manifest.facts.troubles.len();
        accounts.extend(account);
        extras.extend(one.extra.map(|extra| (manifests.len(), extra)));
        blind_spots.extend(one.blind_spots);
        manifests.push(one.manifest);
    }
    accounts.sort_by(|one: &Account, other| one.path.cmp(&other.path));
    if !extras.is_empty() {
        components::settle(&mut manifests, &extras, interner);
    }
    (manifests, accounts)
}

/// The files of a workspace on disk.
struct Folder<'a>(&'a Path);

impl Files for Folder<'_> {
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>> {
        if leads_out(path) {
            return None;
        }
        match files::read(&self.0.join(path), TEXT_LIMIT) {
            Ok(bytes) => Some(Ok(bytes)),
            Err(Refused::Missing) => None,
            Err(Refused::Because(why)) => Some(Err(why)),
        }
    }

    fn list(&self, folder: &str) -> Vec<String> {
        if leads_out(folder) {
            return Vec::new();
        }
        let entries = std::fs::read_dir(self.0.join(folder)).into_iter().flatten().flatten();
        let mut paths: Vec<String> =
            entries.map(|entry| format!("{folder}/{}", entry.file_name().to_string_lossy())).collect();
        paths.sort_unstable();
        paths
    }
}

/// The files of a workspace in memory.
struct Texts<'text>(HashMap<&'text str, &'text str>);

impl Files for Texts<'_> {
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>> {
        self.0.get(path).map(|text| Ok(text.as_bytes().to_vec()))
    }

    fn list(&self, folder: &str) -> Vec<String> {
        let is_in = |path: &str| path.rsplit_once('/').is_some_and(|(above, _)| above == folder);
        let mut paths: Vec<String> =
            self.0.keys().filter(|path| is_in(path)).map(|&path| path.to_owned()).collect();
        paths.sort_unstable();
        paths
    }
}

/// One file, or one file of an archive, as it was read.
struct OneRead {
    one: One,
    account: Option<Account>,
}

/// What the reading of some files has at hand.
#[derive(Clone, Copy)]
struct Reading<'a> {
    plan: &'a Plan,
    interner: &'a Interner,
    files: &'a dyn Files,
    taken: &'a Taken,
    explain: bool,
}

impl Reading<'_> {
    fn standard(&self) -> Standard<'_> {
        let Self { plan, interner, files, taken, .. } = *self;
        Standard { standards: &plan.standards, interner, files, taken }
    }

    /// Reads one file. If the program fails at it, that is a finding of the file.
    fn file(&self, found: &FoundFile) -> Vec<OneRead> {
        fenced(|| self.found(found)).unwrap_or_else(|why| self.failed(&found.relative, &why))
    }

    fn failed(&self, path: &str, why: &str) -> Vec<OneRead> {
        let manifest = manifest::unreadable(path.to_owned(), why, TroubleKind::Unreadable);
        vec![self.with_account(One::plain(manifest), Vec::new())]
    }

    fn found(&self, FoundFile { relative, path, is_regular }: &FoundFile) -> Vec<OneRead> {
        let claim = self.plan.claim(relative);
        if let Some(Claim::Standard(kind @ (StandardFile::Jar | StandardFile::Wheel))) = claim {
            return self.of_standard(kind, self.standard().archive(kind, relative, path));
        }
        let bytes = if *is_regular {
            files::read_found(path, TEXT_LIMIT).map_err(Refused::reason)
        } else {
            Err("it is no regular file".to_owned())
        };
        let unreadable =
            |why: &str| One::plain(manifest::unreadable(relative.clone(), why, TroubleKind::Unreadable));
        match (bytes, claim) {
            (Ok(bytes), _) => self.bytes(relative, bytes),
            (Err(_), Some(Claim::Standard(kind))) if !kind.is_sure(relative) => Vec::new(),
            (Err(why), Some(Claim::Standard(kind))) => self.of_standard(kind, vec![unreadable(&why)]),
            (Err(why), _) => vec![self.with_account(unreadable(&why), Vec::new())],
        }
    }

    fn bytes(&self, path: &str, bytes: Vec<u8>) -> Vec<OneRead> {
        let mut account = self.explain.then(Account::default);
        let manifest = match self.plan.claim(path) {
            Some(Claim::Custom(number)) => match manifest::source(path.to_owned(), bytes, self.interner) {
                Ok(source) => {
                    let reader = &self.plan.readers[number];
                    manifest::from_custom_reader(source, reader, self.interner, account.as_mut())
                }
                Err(manifest) => *manifest,
            },
            Some(Claim::Standard(kind)) => {
                return self.of_standard(kind, self.standard().bytes(kind, path, bytes));
            }
            Some(Claim::Native) | None => manifest::from_bytes(path.to_owned(), bytes, self.interner),
        };
        let left_over = account.map(|account| account.left_over).unwrap_or_default();
        vec![self.with_account(One::plain(manifest), left_over)]
    }

    /// What the reader for a standard read; a file that it could not read is its file too.
    fn of_standard(&self, kind: StandardFile, ones: Vec<One>) -> Vec<OneRead> {
        let named = ones.into_iter().map(|mut one| {
            let header = &mut one.manifest.header;
            if header.reader.is_none() && header.kind == SourceKind::Manifest {
                header.reader = Some(self.interner.intern(kind.standard()));
            }
            self.with_account(one, Vec::new())
        });
        named.collect()
    }

    fn with_account(&self, one: One, left_over: Vec<LeftOver>) -> OneRead {
        let manifest = &one.manifest;
        let account = (self.explain && manifest.header.kind == SourceKind::Manifest).then(|| {
            let text = |name: Name| self.interner.text(name);
            let facts = &manifest.facts;
            let unreadable = facts.troubles.iter().find(|trouble| trouble.kind == TroubleKind::Unreadable);
            Account {
                path: manifest.source.path.clone(),
                reader: manifest.header.reader.map(text),
                module: manifest.header.module.map(|module| text(module.name)),
                taken: account::taken(facts),
                left_over,
                unread: unreadable.map(|trouble| trouble.message.clone()),
            }
        });
        OneRead { one, account }
    }
}

/// The text of the workspace file, if there is one.
fn read_settings(root: &Path) -> Result<Option<String>, WorkspaceError> {
    let broken = |reason: String| WorkspaceError::BrokenFile { at: workspace_file::NAME.to_owned(), reason };
    match files::read(&root.join(workspace_file::NAME), TEXT_LIMIT) {
        Ok(bytes) => String::from_utf8(bytes).map(Some).map_err(|error| {
            broken(format!("not UTF-8 text: byte {} begins no character", error.utf8_error().valid_up_to()))
        }),
        Err(Refused::Missing) => Ok(None),
        Err(Refused::Because(why)) => Err(broken(why)),
    }
}

/// What a workspace file says: its settings, and its facts as a manifest of no module.
fn workspace_file(
    mut text: String,
    interner: &Interner,
) -> Result<(Settings, Option<Manifest>), WorkspaceError> {
    if text.starts_with('\u{feff}') {
        text.remove(0);
    }
    let read = toml::parse(&text).map(|tree| workspace_file::read(&tree, interner));
    let source = Source::new(workspace_file::NAME.to_owned(), text);
    match read {
        Ok((settings, facts)) => {
            let mistakes: Vec<String> = facts
                .troubles
                .iter()
                .filter(|trouble| declaration::is_about_readers(&trouble.subject))
                .map(|trouble| mistake(&source, trouble))
                .collect();
            if !mistakes.is_empty() {
                return Err(WorkspaceError::BrokenReaders { mistakes: mistakes.join("\n") });
            }
            let header = Header { kind: SourceKind::WorkspaceFile, ..Header::default() };
            Ok((settings, Some(Manifest { source, header, facts })))
        }
        Err(error) => {
            let Position { line, column } = source.position(error.span.start);
            let at = format!("{}:{line}:{column}", workspace_file::NAME);
            Err(WorkspaceError::BrokenFile { at, reason: error.message })
        }
    }
}

/// A mistake in a reader, on lines of its own.
fn mistake(source: &Source, trouble: &Trouble) -> String {
    let Position { line, column } = source.position(trouble.at.0.start);
    let help: String = trouble.fixes.iter().map(|fix| format!("\n    help: {}", fix.title)).collect();
    format!("  {}:{line}:{column}: {}: {}{help}", source.path, trouble.subject, trouble.message)
}

/// What could not be looked into, as manifests that say so.
fn troubled(found: &Discovery) -> impl Iterator<Item = Manifest> {
    let folders = found.unreadable.iter().map(|(path, why)| (path, why.clone(), TroubleKind::Unreadable));
    let cycles = found.cycles.iter().map(|(path, to)| {
        let why = if to.starts_with('/') {
            format!("the link leads to {to}, which holds the workspace itself: it is not followed")
        } else {
            format!("the link leads back to {to}, which is read anyway")
        };
        (path, why, TroubleKind::LinkCycle)
    });
    folders.chain(cycles).map(|(path, why, kind)| {
        let mut manifest = manifest::unreadable(path.clone(), &why, kind);
        manifest.header.kind = SourceKind::Container;
        manifest
    })
}
