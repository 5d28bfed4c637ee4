//! States of a workspace that are compared: folders, and revisions of a repository.

use crate::cache;
use crate::cli::Looking;
use crate::exit::CommandError;
use crate::progress::Shown;
use corvant_read::revision::{Repository, Revision, RevisionError};
use corvant_read::workspace::{self, Beside, Workspace};
use std::cell::OnceCell;
use std::path::{Path, PathBuf};

/// What stands between two revisions of which the second is held against where they parted.
const PARTED: &str = "...";

/// Where states are looked for.
pub(crate) struct Among<'a> {
    root: &'a Path,
    repository: OnceCell<Repository>,
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
        Self { root, repository: OnceCell::new() }
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

    /// Reads a state; what is the same in a twin that was read already is not parsed again.
    pub(crate) fn read(
        &self,
        of: &Named,
        twin: Option<&Workspace>,
        looking: &Looking,
        shown: &Shown,
    ) -> Result<Workspace, CommandError> {
        let cache = cache::folder(&looking.caching)?;
        let beside =
            Beside { cache: cache.as_deref(), progress: Some(shown.progress()), twin, ..Beside::default() };
        match of {
            Named::Folder(folder) => Ok(workspace::read_beside(folder, beside)?),
            Named::Revision(revision) => {
                let laid_out = self.repository()?.check_out(revision)?;
                let mut workspace = workspace::read_beside(&laid_out.root, beside)
                    .map_err(|error| RevisionError::Workspace { revision: revision.name.clone(), error })?;
                workspace.blind_spots.extend(laid_out.blind_spots);
                Ok(workspace)
            }
        }
    }
}
