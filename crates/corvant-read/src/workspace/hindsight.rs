//! What can be told only once all files are read: files that none is, paths that select nothing, values that are the id
//! of something.

use super::one_file::OneRead;
use crate::custom::error_in;
use crate::manifest;
use crate::plan::{Claim, Plan};
use crate::standards::Files;
use corvant_core::account::Lookalike;
use corvant_core::facts::{Import, Trouble, TroubleKind};
use corvant_core::finding::Fix;
use corvant_core::name::Interner;
use corvant_core::near::meanings;
use corvant_core::source::SourceIndex;
use corvant_core::wiring::Manifest;
use foldhash::HashSet;

/// Notes files that others name and that are not there.
pub(super) fn look_for_imports(manifests: &mut [Manifest], interner: &Interner, files: &dyn Files) {
    for Manifest { facts, .. } in manifests {
        let missing = |import: &&Import| {
            let path = interner.text(import.path);
            !path.contains('*') && !path.starts_with("..") && !files.has(&path)
        };
        let missing: Vec<Trouble> =
            facts.imports.iter().filter(missing).map(|import| not_there(import, interner, files)).collect();
        for trouble in missing {
            facts.report(trouble);
        }
    }
}

/// A file that is not there; what was meant is one of those beside it.
fn not_there(import: &Import, interner: &Interner, files: &dyn Files) -> Trouble {
    let (path, written) = (interner.text(import.path), interner.text(import.written.name));
    let (folder, name) = path.rsplit_once('/').unwrap_or((".", &path));
    let beside = files.list(folder);
    let beside: Vec<&str> = beside.iter().filter_map(|path| path.rsplit('/').next()).collect();
    let message = format!("{written} is not there: nothing of what it was meant to bring is");
    let at = (import.written.span, "named here");
    let mut trouble = Trouble::new(TroubleKind::MissingImport, written.clone(), message, at);
    trouble.fixes.extend(meanings(&[name], &beside)[0].map(|meant| {
        let to = format!("{}{}", &written[..written.len() - name.len()], beside[meant.known]);
        let place = (SourceIndex::OWN, import.written.span);
        Fix::rename(format!("write {to}"), [place], &written, &to, meant.likeness.at_most_likely())
    }));
    trouble.advice("put the file there, or take the line out")
}

/// Adds files that say what counts for their folders and cannot be read, unless somebody reads them for what they are.
pub(super) fn tell_broken_folder_files(manifests: &mut Vec<Manifest>, plan: &Plan, interner: &Interner) {
    for (at, bytes) in plan.folders.broken() {
        if manifests.iter().any(|manifest| manifest.source.path == at) {
            continue;
        }
        let told = match bytes.map(|bytes| manifest::source(at.clone(), bytes, interner)) {
            Ok(Ok(source)) => {
                let error = error_in(&source.path, &source.text);
                error.map(|error| manifest::not_well_formed(source, &error, interner))
            }
            Ok(Err(manifest)) => Some(*manifest),
            Err(why) => Some(manifest::unreadable(at, &why, TroubleKind::Unreadable)),
        };
        manifests.extend(told);
    }
}

/// Notes in the workspace file what its readers look for in vain.
pub(super) fn report_idle_paths(plan: &Plan, read: &[Vec<OneRead>], file: Option<&mut Manifest>) {
    let Some(file) = file.filter(|_| !plan.readers.is_empty()) else { return };
    let is_unread = |one: &&OneRead| {
        let troubles = &one.one.manifest.facts.troubles;
        troubles.iter().any(|trouble| trouble.kind == TroubleKind::Unreadable)
    };
    let unread = read.iter().flatten().filter(is_unread);
    let idle = plan.idle_paths(unread.map(|one| one.one.manifest.source.path.as_str()));
    for trouble in idle {
        file.facts.report(trouble);
    }
}

/// Tells values in which no reference was found, where they look like one or are the id of a service: in accounts, and
/// as findings where the reader is strict.
pub(super) fn weigh_unmatched(
    mut read: Vec<Vec<OneRead>>,
    plan: &Plan,
    interner: &Interner,
) -> Vec<Vec<OneRead>> {
    let all = || read.iter().flatten();
    if all().all(|read| read.unmatched.is_empty()) {
        return read;
    }
    let services = all().flat_map(|read| &read.one.manifest.facts.services);
    let ids: HashSet<String> = services.map(|service| interner.text(service.id.name)).collect();
    for OneRead { one, account, unmatched, .. } in
        read.iter_mut().flatten().filter(|read| !read.unmatched.is_empty())
    {
        let manifest = &mut one.manifest;
        let claim = plan.claim(&manifest.source.path);
        let is_strict = matches!(claim, Some(Claim::Custom(number)) if plan.readers[number].is_strict());
        for value in std::mem::take(unmatched) {
            let is_id = ids.contains(&value.text);
            if !is_id && !value.looks_like_one {
                continue;
            }
            let line = manifest.source.position(value.span.start).line;
            if let Some(account) = account {
                account.lookalikes.push(Lookalike { text: value.text.clone(), is_id, line });
            }
            if is_strict {
                manifest.facts.report(value.trouble(is_id));
            }
        }
    }
    read
}
