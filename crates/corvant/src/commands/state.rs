//! States of a workspace that are compared: folders, and revisions of a repository.

use crate::cache;
use crate::cli::Looking;
use crate::exit::CommandError;
use crate::progress::Shown;
use corvant_read::cache::OfRevision;
use corvant_read::revision::{Checkout, Listed, Repository, Revision, RevisionError, Twin};
use corvant_read::workspace::{self, Beside, Workspace};
use std::path::{Path, PathBuf};
use std::sync::OnceLock;
use std::thread::JoinHandle;

/// What stands between two revisions of which the second is held against where they parted.
const PARTED: &str = "...";

/// Where states are looked for.
pub(crate) struct Among<'a> {
    root: &'a Path,
    repository: OnceLock<Repository>,
}

/// A state that is there.
pub(crate) enum Named {
    /// What lies in a folder.
    Folder(PathBuf),
    /// A revision.
    Revision(Revision),
}

impl Named {
    /// What it is called in results.
    pub(crate) fn name(&self) -> String {
        match self {
            Self::Folder(folder) if folder == Path::new(".") => "what lies here".to_owned(),
            Self::Folder(folder) => folder.display().to_string(),
            Self::Revision(revision) => revision.name.clone(),
        }
    }
}

impl<'a> Among<'a> {
    /// States of what lies in a folder, and of the repository that it is in.
    pub(crate) fn new(root: &'a Path) -> Self {
        Self { root, repository: OnceLock::new() }
    }

    /// The folder.
    pub(crate) fn root(&self) -> &'a Path {
        self.root
    }

    fn repository(&self) -> Result<&Repository, RevisionError> {
        if self.repository.get().is_none() {
            let found = Repository::of(self.root)?;
            let _ = self.repository.set(found);
        }
        self.repository.get().ok_or(RevisionError::NoProgram)
    }

    /// A state by its name; a name that is a folder is that folder.
    pub(crate) fn one(&self, name: &str) -> Result<Named, CommandError> {
        let folder = Path::new(name);
        if folder.is_dir() {
            return Ok(Named::Folder(folder.to_owned()));
        }
        Ok(Named::Revision(self.repository()?.revision(name)?))
    }

    /// The states before and now.
    pub(crate) fn both(&self, old: &str, new: Option<&str>) -> Result<(Named, Named), CommandError> {
        match (old.split_once(PARTED), new) {
            (Some((one, other)), None) if !Path::new(old).is_dir() => {
                let repository = self.repository()?;
                let name = |name: &str| if name.is_empty() { "HEAD".to_owned() } else { name.to_owned() };
                let (one, other) = (repository.revision(&name(one))?, repository.revision(&name(other))?);
                let parted = repository.common_ancestor(&one, &other)?;
                Ok((Named::Revision(parted), Named::Revision(other)))
            }
            (_, Some(new)) => Ok((self.one(old)?, self.one(new)?)),
            (_, None) => Ok((self.one(old)?, Named::Folder(self.root.to_owned()))),
        }
    }

    /// What was found in a state that is never another, and is kept for the next time.
    pub(crate) fn remembered(
        &self,
        state: &Named,
        cache: Option<&Path>,
        asked: &str,
    ) -> Result<Option<OfRevision>, CommandError> {
        let (Named::Revision(revision), Some(cache)) = (state, cache) else { return Ok(None) };
        Ok(OfRevision::new(cache, revision, self.repository()?.prefix(), asked))
    }

    /// Reads the states now and before. What is the same in both is laid out and parsed once. Where nothing but findings is asked for, the rest is left out.
    pub(crate) fn read_both(
        &self,
        old: &Named,
        new: &Named,
        (looking, only_findings): (&Looking, bool),
        shown: &Shown,
    ) -> Result<(Workspace, Workspace, Clearing), CommandError> {
        let cache = cache::folder(&looking.caching)?;
        let (cache, progress) = (cache.as_deref(), Some(shown.progress()));
        let beside = Beside { cache, progress, only_findings, ..Beside::default() };
        std::thread::scope(|scope| {
            // The other program may say what the old state holds while the new one is read.
            let listed = scope.spawn(|| self.list(old));
            let new = self.place(new, None, None)?;
            let after = new.read(beside)?;
            let listed = listed.join().ok().transpose()?.flatten();
            let old = self.place(old, listed, Some(Twin { workspace: &after, laid_out: new.laid_out() }))?;
            let before = old.read(Beside { twin: Some(&after), ..beside })?;
            Ok((before, after, Clearing::of([old, new])))
        })
    }

    /// Says what is in a state that lies in no folder.
    fn list(&self, of: &Named) -> Result<Option<Listed>, CommandError> {
        Ok(match of {
            Named::Folder(_) => None,
            Named::Revision(revision) => Some(self.repository()?.list(revision)?),
        })
    }

    /// Lays out what is not in a folder, and of what is the same as in a twin no more than is needed; what it holds may be known.
    fn place<'n>(
        &self,
        of: &'n Named,
        listed: Option<Listed>,
        twin: Option<Twin<'_>>,
    ) -> Result<Placed<'n>, CommandError> {
        Ok(match of {
            Named::Folder(folder) => Placed::Folder(folder),
            Named::Revision(revision) => {
                let repository = self.repository()?;
                let listed = listed.map_or_else(|| repository.list(revision), Ok)?;
                Placed::Revision(revision, repository.check_out(&listed, twin)?)
            }
        })
    }
}

/// Files of revisions that are many and go away while the program goes on, which does not end before.
#[must_use]
pub(crate) struct Clearing(Option<JoinHandle<()>>);

impl Clearing {
    fn of(states: [Placed<'_>; 2]) -> Self {
        let laid_out = states.map(|state| match state {
            Placed::Folder(_) => None,
            Placed::Revision(_, laid_out) => Some(laid_out),
        });
        let is_any = laid_out.iter().any(Option::is_some);
        Self(is_any.then(|| std::thread::spawn(|| drop(laid_out))))
    }
}

impl Drop for Clearing {
    fn drop(&mut self) {
        if let Some(clearing) = self.0.take() {
            // What it could not take away is passing all the same.
            let _ = clearing.join();
        }
    }
}

/// A state that lies in files.
enum Placed<'n> {
    Folder(&'n Path),
    Revision(&'n Revision, Checkout),
}

impl Placed<'_> {
    fn laid_out(&self) -> Option<&Checkout> {
        match self {
            Self::Folder(_) => None,
            Self::Revision(_, laid_out) => Some(laid_out),
        }
    }

    fn read(&self, beside: Beside<'_>) -> Result<Workspace, CommandError> {
        match self {
            Self::Folder(folder) => Ok(workspace::read_beside(folder, beside)?),
            Self::Revision(revision, laid_out) => {
                let beside = Beside { instead: Some(&laid_out.instead), ..beside };
                let mut workspace = workspace::read_beside(&laid_out.root, beside)
                    .map_err(|error| RevisionError::Workspace { revision: revision.name.clone(), error })?;
                workspace.blind_spots.extend(laid_out.blind_spots.iter().cloned());
                Ok(workspace)
            }
        }
    }
}
