//! A whole workspace: every manifest below a folder, read on all threads.

mod around;
mod error;
mod hindsight;
mod one_file;
mod settings;
mod twin;

pub use error::WorkspaceError;

use crate::cache::{Cache, Consulted, Consulting, Outlines};
use crate::discover::{self, Discovery, FoundFile};
use crate::fence::fenced;
use crate::files;
use crate::manifest;
use crate::mend::Texts;
use crate::native::workspace_file;
use crate::plan::{Claim, Plan};
use crate::progress::Progress;
use crate::standards::{Claimed, Files, Taken, components};
use crate::types::{CodeFile, Language, Resolver};
use around::{Folder, InMemory};
use corvant_core::account::Account;
use corvant_core::facts::{SourceKind, TroubleKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::{Interner, Names};
use corvant_core::wiring::{Manifest, Policy, Wiring, link};
use globset::Glob;
use hindsight::{look_for_imports, report_idle_paths, tell_broken_folder_files, weigh_unmatched};
use one_file::{OneRead, Reading};
use rayon::prelude::*;
use settings::{read_settings, seen};
use std::borrow::Borrow;
use std::hash::Hash;
use std::path::Path;
use std::sync::Arc;

/// Files that share an interner at most: one of their names fits into a cache.
const TOGETHER: usize = 32;
/// What is wrong with files is told one by one as long as it is not more than this in all; past that once a file and kind.
const TROUBLE_LIMIT: usize = 100_000;

/// What was read.
#[derive(Clone, Debug)]
pub struct Workspace {
    /// Manifests, and folders that could not be looked into, in the order of their paths.
    pub manifests: Vec<Manifest>,
    /// All names in them.
    pub names: Arc<Names>,
    /// What the workspace decides for all modules.
    pub policy: Policy,
    /// What was seen and not read.
    pub blind_spots: Vec<BlindSpot>,
}

impl Workspace {
    /// Links all that was read, and gives what was seen and not read.
    pub fn link(self) -> (Wiring, Vec<BlindSpot>) {
        (link(self.manifests, self.names, self.policy), self.blind_spots)
    }
}

/// What the reading of a folder has beside it.
#[derive(Clone, Copy, Debug, Default)]
pub struct Beside<'a> {
    /// Who is told how far it has come.
    pub progress: Option<&'a Progress>,
    /// A folder in which what takes long to find is kept for the next time; the result is the same without.
    pub cache: Option<&'a Path>,
    /// The file whose tree is told with its account, by its path from the root.
    pub tree_of: Option<&'a str>,
    /// Names that are to be known, whether or not they stand in a file.
    pub also: &'a [String],
    /// Another state of the workspace: files that are the same in both are not parsed again.
    pub twin: Option<&'a Workspace>,
    /// Texts that files have instead of what is on disk, by their paths.
    pub instead: Option<&'a Texts>,
    /// Nothing but findings is asked for: what they do not depend on is left out, such as parameters of methods in code.
    pub only_findings: bool,
    /// Takes note of what is looked for beside the files that are read.
    pub consulted: Option<&'a Consulted>,
}

/// Reads every manifest below a folder, as the workspace file in it says. Manifests that cannot be read are
/// findings later on; a broken workspace file is an error, and so is a folder without any manifest.
pub fn read(root: &Path) -> Result<Workspace, WorkspaceError> {
    read_beside(root, Beside::default())
}

/// The same with more beside it.
pub fn read_beside(root: &Path, beside: Beside<'_>) -> Result<Workspace, WorkspaceError> {
    Ok(read_folder(root, false, beside)?.0)
}

/// Says of every file below a folder who reads it, what is taken from it and what is left over; and what was not
/// looked at, such as readers that no file is for.
pub fn explain(root: &Path, beside: Beside<'_>) -> Result<(Vec<Account>, Vec<BlindSpot>), WorkspaceError> {
    let (workspace, accounts) = read_folder(root, true, beside)?;
    Ok((accounts, workspace.blind_spots))
}

/// Who reads what below a folder, as the workspace file in it says.
pub(crate) fn plan_below(root: &Path) -> Result<Plan, WorkspaceError> {
    plan(read_settings(root)?)
}

/// Who reads what, as a workspace file says.
pub(crate) fn plan_of(file: Option<Vec<u8>>) -> Result<Plan, WorkspaceError> {
    plan(file.map(settings::text).transpose()?)
}

fn plan(file: Option<String>) -> Result<Plan, WorkspaceError> {
    let mut settings = match file {
        Some(text) => settings::workspace_file(text, &Interner::default())?.0,
        None => workspace_file::Settings::default(),
    };
    Ok(Plan::new(&mut settings))
}

/// What there is below a folder, before anything of it is read.
#[derive(Debug)]
pub struct Found<'a> {
    root: &'a Path,
    beside: Beside<'a>,
    settings: workspace_file::Settings,
    file: Option<Manifest>,
    of_file: Interner,
    plan: Plan,
    seen: Discovery,
}

/// Looks what there is below a folder, as the workspace file in it says.
pub fn find<'a>(root: &'a Path, beside: Beside<'a>) -> Result<Found<'a>, WorkspaceError> {
    if let Err(error) = std::fs::read_dir(root) {
        let (path, reason) = (root.display().to_string(), files::plain_reason(&error));
        return Err(WorkspaceError::NoFolder { path, reason });
    }
    let of_file = Interner::default();
    let other = beside.instead.and_then(|texts| texts.get(workspace_file::NAME));
    let text = other.map_or_else(|| read_settings(root), |source| Ok(Some(source.text.clone())))?;
    let (mut settings, file) = match text {
        Some(text) => settings::workspace_file(text, &of_file)?,
        None => Default::default(),
    };
    for name in beside.also {
        of_file.intern(name);
    }
    let plan = Plan::new(&mut settings);
    let seen = discover::discover(root, &plan);
    Ok(Found { root, beside, settings, file, of_file, plan, seen })
}

impl Found<'_> {
    /// The files that somebody reads.
    pub(crate) fn files(&self) -> &[FoundFile] {
        &self.seen.manifests
    }

    /// What they are, and all that is said of them by the workspace file and by folders.
    pub(crate) fn said(&self) -> impl Hash {
        (self.file.as_ref().map(|file| &file.source.text), &self.seen)
    }

    /// Reads it all.
    pub fn read(self) -> Result<Workspace, WorkspaceError> {
        Ok(read_found(self, false)?.0)
    }
}

fn read_folder(
    root: &Path,
    explain: bool,
    beside: Beside<'_>,
) -> Result<(Workspace, Vec<Account>), WorkspaceError> {
    read_found(find(root, beside)?, explain)
}

fn read_found(found: Found<'_>, explain: bool) -> Result<(Workspace, Vec<Account>), WorkspaceError> {
    let Found { root, beside, settings, mut file, of_file, plan, seen: mut found } = found;
    let path = root.display().to_string();
    let mut blind_spots =
        seen(&plan, file.as_ref(), found.manifests.iter().map(|file| file.relative.as_str()))?;
    blind_spots.extend(found.unread_ignore_files.iter().map(|(path, why)| BlindSpot {
        kind: BlindSpotKind::UnreadIgnoreFile,
        subject: path.clone(),
        message: format!("the ignore file hides nothing: {why}"),
        places: Vec::new(),
    }));
    blind_spots.extend(found.hidden.blind_spots());
    let taken = Taken::default();
    let cache = beside.cache.map(Cache::new);
    let cache = cache.as_ref();
    let consulting = beside.consulted.map(|noted| Consulting { root, noted });
    let folder = Folder { root, instead: beside.instead, consulting };
    let reading = Reading {
        plan: &plan,
        interner: &of_file,
        files: &folder,
        taken: &taken,
        explain,
        tree_of: beside.tree_of,
        cache,
        outlines: None,
        instead: beside.instead,
        only_findings: beside.only_findings,
    };
    let take_same = |twin| (twin::take_same(&mut found, reading, twin), twin.names.thaw());
    let shared = beside.twin.map(take_same);
    let unseen = Progress::default();
    let (mut read, mut interners) = read_all(&found, reading, beside.progress.unwrap_or(&unseen));
    cache.inspect(|cache| cache.tidy());
    if let Some((same, names)) = shared {
        read.push(same);
        interners.push(names);
    }
    let mut read = settle_code(read, &interners, reading);
    let too_much = taken.too_much();
    if too_much.is_some() {
        drop_archives(&plan, &mut read);
    }
    report_idle_paths(&plan, &read, file.as_mut());
    interners.push(of_file);
    let interner = merge_names(interners, &mut read, file.as_mut());
    let (mut manifests, accounts) = taken_apart(read, &plan, &interner, &folder, &mut blind_spots);
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
        let hidden = found.hidden.blind_spots();
        let hidden = hidden.iter().map(|spot| format!("\n  {}: {}", spot.subject, spot.message)).collect();
        return Err(WorkspaceError::NothingFound { path: path + members, readers, hidden });
    }
    manifests.extend(file);
    Ok((
        Workspace { manifests, names: Arc::new(interner.freeze()), policy: settings.policy, blind_spots },
        accounts,
    ))
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
    let many = reading.cache.filter(|_| files.len() >= MANY);
    let read = files.par_chunks(few).map(|files| {
        let interner = Interner::default();
        let outlines = many.and_then(|cache| outlines(cache, files));
        let reading = Reading { interner: &interner, outlines: outlines.as_ref(), ..reading };
        let read = files.iter().flat_map(|file| {
            let read = reading.file(file);
            progress.read_one();
            read
        });
        let read: Vec<OneRead> = read.collect();
        if let Some(outlines) = outlines {
            outlines.keep(read.iter().filter_map(|one| one.code.as_ref()));
        }
        (read, interner)
    });
    read.unzip()
}

/// Fewer files are read in less time than it takes to look for what was kept of them.
const MANY: usize = 256;

/// What was kept of a few files, if there is code among them.
fn outlines<'c>(cache: &'c Cache, files: &[FoundFile]) -> Option<Outlines<'c>> {
    let is_source = |path: &&str| Language::of_ending(path).is_some_and(|of| of != Language::ClassFile);
    let mut code = files.iter().map(|file| file.relative.as_str()).filter(is_source).peekable();
    code.peek()?;
    Some(cache.outlines(code))
}

/// Says what code declares, now that all of it is read and names in it can be made full.
fn settle_code(
    mut read: Vec<Vec<OneRead>>,
    interners: &[impl Borrow<Interner> + Sync],
    reading: Reading<'_>,
) -> Vec<Vec<OneRead>> {
    let codes: Vec<Vec<Option<CodeFile>>> =
        read.iter_mut().map(|few| few.iter_mut().map(|one| one.code.take()).collect()).collect();
    if codes.iter().flatten().all(Option::is_none) {
        return read;
    }
    let resolver = Resolver::new(codes.iter().flatten().flatten());
    let few = |few: Vec<OneRead>, codes: &[Option<CodeFile>], interner: &Interner| {
        let reading = Reading { interner, ..reading };
        let settled = few.into_iter().zip(codes).flat_map(|(one, code)| match code {
            Some(code) => {
                let settled = fenced(|| reading.settle_code(one, &resolver, code));
                settled.unwrap_or_else(|why| reading.failed(&code.path, &why))
            }
            None => vec![one],
        });
        settled.collect()
    };
    let together = read.into_par_iter().zip(&codes).zip(interners);
    together.map(|((read, codes), interner)| few(read, codes, interner.borrow())).collect()
}

/// Takes away what was read in archives: how much of it there is depends on which of them were read first.
fn drop_archives(plan: &Plan, read: &mut [Vec<OneRead>]) {
    let is_archive = |path: &str| {
        path.contains("!/")
            || matches!(plan.claim(path), Some(Claim::Standard(_))) && Claimed::is_archive(path)
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
    let (mut settings, mut file) = match file.first() {
        Some((_, text)) => settings::workspace_file((*text).to_owned(), &interner)?,
        None => Default::default(),
    };
    let plan = Plan::new(&mut settings);
    let manifests: Vec<_> = manifests.into_iter().filter(|(path, _)| plan.scope.includes(path)).collect();
    let around = InMemory(manifests.iter().copied().collect());
    let included: Vec<_> = manifests.into_iter().filter(|(path, _)| plan.is_wanted(path)).collect();
    let mut blind_spots = seen(&plan, file.as_ref(), included.iter().map(|(path, _)| *path))?;
    let taken = Taken::default();
    let reading = Reading {
        plan: &plan,
        interner: &interner,
        files: &around,
        taken: &taken,
        explain: false,
        tree_of: None,
        cache: None,
        outlines: None,
        instead: None,
        only_findings: false,
    };
    let read = included.into_iter().map(|(path, text)| {
        let bytes = text.as_bytes().to_vec();
        fenced(|| reading.bytes(path, bytes)).unwrap_or_else(|why| reading.failed(path, &why))
    });
    let read: Vec<Vec<OneRead>> = read.collect();
    let interners: Vec<&Interner> = vec![&interner; read.len()];
    let read = settle_code(read, &interners, reading);
    report_idle_paths(&plan, &read, file.as_mut());
    let (mut manifests, _) = taken_apart(read, &plan, &interner, &around, &mut blind_spots);
    manifests.extend(file);
    Ok(Workspace { manifests, names: Arc::new(interner.freeze()), policy: settings.policy, blind_spots })
}

/// Manifests and accounts; what can be settled only now that all files are read is settled.
fn taken_apart(
    read: Vec<Vec<OneRead>>,
    plan: &Plan,
    interner: &Interner,
    files: &dyn Files,
    blind_spots: &mut Vec<BlindSpot>,
) -> (Vec<Manifest>, Vec<Account>) {
    let mut accounts = Vec::new();
    let mut extras = Vec::new();
    let mut manifests = Vec::with_capacity(read.iter().map(Vec::len).sum());
    let mut troubles = 0;
    let read = weigh_unmatched(read, plan, interner);
    for OneRead { mut one, account, .. } in read.into_iter().flatten() {
        if troubles >= TROUBLE_LIMIT {
            one.manifest.facts.tell_together();
        }
        troubles += one.manifest.facts.troubles.len();
        let header = &mut one.manifest.header;
        let module = header.module.map(|module| module.name);
        header.rank = plan.rank(&one.manifest.source.path, || Some(interner.text(module?)));
        accounts.extend(account);
        extras.extend(one.extra.map(|extra| (manifests.len(), extra)));
        blind_spots.extend(one.blind_spots);
        manifests.push(one.manifest);
    }
    tell_broken_folder_files(&mut manifests, plan, interner);
    look_for_imports(&mut manifests, interner, files);
    accounts.sort_by(|one: &Account, other| one.path.cmp(&other.path));
    if !extras.is_empty() {
        components::settle(&mut manifests, &extras, interner, files);
    }
    (manifests, accounts)
}

/// What could not be looked into, as manifests that say so.
fn troubled(found: &Discovery) -> impl Iterator<Item = Manifest> {
    let folders = found.unreadable.iter().map(|(path, why)| (path, why.clone(), TroubleKind::Unreadable));
    let dead = found.dead_links.iter().map(|(path, to)| manifest::dead_link(path, to));
    let cycles = found.cycles.iter().map(|(path, to)| {
        let why = if to.starts_with('/') {
            format!("the link leads to {to}, which holds the workspace itself: it is not followed")
        } else {
            format!("the link leads back to {to}, which is read anyway")
        };
        (path, why, TroubleKind::LinkCycle)
    });
    let unread =
        folders.chain(cycles).map(|(path, why, kind)| manifest::unreadable(path.clone(), &why, kind));
    unread.chain(dead).map(|mut manifest| {
        manifest.header.kind = SourceKind::Container;
        manifest
    })
}
