//! Revisions of a repository, read out of its object database.
//!
//! The version-control program is asked through its plumbing, which prints what is stored and changes nothing: neither
//! the work tree nor the index nor any reference. What readers want of a revision is laid out in a folder of its own that
//! goes away again, so that ignore files, links and archives mean there what they mean in a checkout.

mod program;
mod same;
mod tree;

pub use same::Twin;

use crate::files::plain_reason;
use crate::mend::Texts;
use crate::plan::Plan;
use crate::workspace::{WorkspaceError, plan_of};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use program::Program;
use rayon::prelude::*;
use std::collections::{HashMap, HashSet};
use std::fs;
use std::io::{self, ErrorKind};
use std::path::{Path, PathBuf};
use tempfile::TempDir;
use tree::{Entry, Sort};

/// Most bytes of a file that no reader wants and that lies beside one: some readers look around.
const AROUND: u64 = 64 << 10;
/// Most bytes of a file that is taken out of a revision.
const LARGEST: u64 = 512 << 20;
/// Fewer files than this are not worth another process.
const FEW: usize = 200;
/// How a file begins that only names a large file kept elsewhere.
const POINTER: &[u8] = b"version https://git-lfs";

/// Why a revision cannot be read, and what to do.
#[derive(Debug, thiserror::Error)]
pub enum RevisionError {
    /// The version-control program is not there.
    #[error("revisions are read by `git`, which is not installed here: compare folders instead")]
    NoProgram,
    /// The folder is in no repository.
    #[error(
        "{folder} is in no repository ({reason}): name a folder instead of a revision, or run this in a clone"
    )]
    NoRepository {
        /// The folder.
        folder: String,
        /// What the program says.
        reason: String,
    },
    /// Nothing has the name.
    #[error("there is no folder and no revision {revision} here{hint}")]
    Unknown {
        /// The name.
        revision: String,
        /// What to do about it.
        hint: &'static str,
    },
    /// Two revisions have nothing in common.
    #[error(
        "{one} and {other} have no common ancestor here: a shallow clone lacks it; fetch more of the history"
    )]
    NoAncestor {
        /// The one.
        one: String,
        /// The other.
        other: String,
    },
    /// The folder is not there in the revision.
    #[error("{revision} has no folder {path}")]
    NoPath {
        /// The revision.
        revision: String,
        /// The folder.
        path: String,
    },
    /// A blob is not there.
    #[error("{path} of {revision} is not in this clone ({reason}): fetch it first, nothing is fetched here")]
    Lacking {
        /// The revision.
        revision: String,
        /// The file.
        path: String,
        /// What the program says.
        reason: String,
    },
    /// The program failed.
    #[error("the repository cannot be read: {0}")]
    Failed(String),
    /// The files could not be laid out.
    #[error("a revision cannot be laid out for reading: {reason}")]
    Io {
        /// Why.
        reason: String,
        /// Whether there was no room.
        is_full: bool,
    },
    /// The workspace file of the revision cannot be used.
    #[error("{revision}: {error}")]
    Workspace {
        /// The revision.
        revision: String,
        /// Why.
        error: WorkspaceError,
    },
}

impl From<io::Error> for RevisionError {
    fn from(error: io::Error) -> Self {
        Self::Io { reason: plain_reason(&error), is_full: error.kind() == ErrorKind::StorageFull }
    }
}

/// A repository, seen from a folder in it.
#[derive(Debug)]
pub struct Repository {
    program: Program,
    /// The folder within the repository, with `/` at its end; empty: the top.
    prefix: String,
}

/// A revision that is there.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Revision {
    /// As it was asked for.
    pub name: String,
    /// The commit.
    commit: String,
}

/// What readers want of a revision, in a folder that goes away with it.
#[derive(Debug)]
pub struct Checkout {
    /// Where the workspace begins.
    pub root: PathBuf,
    /// What was not laid out: large files kept elsewhere, other repositories, links that lead out.
    pub blind_spots: Vec<BlindSpot>,
    /// The texts of files that are laid out empty, by their paths from the root: another state has them.
    pub instead: Texts,
    folder: TempDir,
    /// The id of each file that is laid out, by its path on disk.
    laid_out: HashMap<PathBuf, String>,
}

impl Checkout {
    /// Where the repository begins.
    fn top(&self) -> PathBuf {
        self.folder.path().join(TOP)
    }
}

impl Repository {
    /// The repository that a folder is in; the folder need not be a work tree.
    pub fn of(folder: &Path) -> Result<Self, RevisionError> {
        let program = Program::at(folder);
        let said = program.say(&["rev-parse", "--show-prefix"])?;
        let prefix = said.map_err(|reason| RevisionError::NoRepository {
            folder: folder.display().to_string(),
            reason: if reason.contains("dubious ownership") {
                "it belongs to somebody else; the program's `safe.directory` says whom to trust".to_owned()
            } else {
                reason
            },
        })?;
        Ok(Self { program, prefix: prefix.trim_end_matches('\n').to_owned() })
    }

    /// The commit that a name means.
    pub fn revision(&self, name: &str) -> Result<Revision, RevisionError> {
        let unknown = |hint| RevisionError::Unknown { revision: name.to_owned(), hint };
        if name.is_empty() || name.starts_with('-') || name.contains(['\0', '\n']) {
            return Err(unknown(""));
        }
        let commit = format!("{name}^{{commit}}");
        let said = self.program.say(&["rev-parse", "--verify", "--quiet", "--end-of-options", &commit])?;
        let commit = said.map_err(|_| {
            let is_shallow = self.program.say(&["rev-parse", "--is-shallow-repository"]);
            let is_shallow = is_shallow.is_ok_and(|said| said.is_ok_and(|said| said.trim() == "true"));
            unknown(if is_shallow { ": the clone is shallow; fetch more of the history" } else { "" })
        })?;
        Ok(Revision { name: name.to_owned(), commit: commit.trim().to_owned() })
    }

    /// Where the ways to two revisions part.
    pub fn common_ancestor(&self, one: &Revision, other: &Revision) -> Result<Revision, RevisionError> {
        let said = self.program.say(&["merge-base", &one.commit, &other.commit])?;
        let commit =
            said.map_err(|_| RevisionError::NoAncestor { one: one.name.clone(), other: other.name.clone() })?;
        let name = format!("the ancestor of {} and {}", one.name, other.name);
        Ok(Revision { name, commit: commit.lines().next().unwrap_or_default().to_owned() })
    }

    /// Lays out what readers want of a revision. Of files whose text is the same in a state that was read before there are
    /// but the names; other files that are the same in one that is laid out already are linked to those, and must not be
    /// written to.
    pub fn check_out(&self, revision: &Revision, twin: Option<Twin<'_>>) -> Result<Checkout, RevisionError> {
        let entries = self.entries(revision)?;
        if !self.prefix.is_empty() && !entries.iter().any(|entry| self.inside(entry).is_some()) {
            let path = self.prefix.trim_end_matches('/').to_owned();
            return Err(RevisionError::NoPath { revision: revision.name.clone(), path });
        }
        let size = |entry: &Entry| if entry.size > LARGEST { 0 } else { entry.size };
        let most: u64 = entries.iter().map(size).sum();
        match self.lay_out(revision, &entries, scratch(most)?, twin) {
            // Memory may be shorter than it seems.
            Err(RevisionError::Io { is_full: true, .. }) => {
                self.lay_out(revision, &entries, tempfile::tempdir()?, twin)
            }
            laid_out => laid_out,
        }
    }

    fn lay_out(
        &self,
        revision: &Revision,
        entries: &[Entry],
        folder: TempDir,
        twin: Option<Twin<'_>>,
    ) -> Result<Checkout, RevisionError> {
        let top = folder.path().join(TOP);
        let root = top.join(self.prefix.trim_end_matches('/'));
        fs::create_dir_all(&root)?;
        // Rules of ignore files count below the top of a repository.
        fs::create_dir_all(top.join(".git"))?;
        let mut taken = Taking {
            repository: self,
            revision,
            top: &top,
            twin: twin.and_then(|twin| twin.laid_out),
            laid_out: HashMap::new(),
            blind_spots: Vec::new(),
        };
        let is_file = |entry: &&Entry| entry.sort == Sort::File;
        let workspace_file =
            entries.iter().filter(is_file).filter(|entry| self.inside(entry) == Some("corvant.toml"));
        taken.take(workspace_file)?;
        let plan = plan_of(&root)
            .map_err(|error| RevisionError::Workspace { revision: revision.name.clone(), error })?;
        let wanted = entries.iter().zip(self.wanted(entries, &plan)).filter(|(_, wanted)| *wanted);
        let wanted: Vec<&Entry> = wanted.map(|(entry, _)| entry).collect();
        // What is come to over a link is read by another path than its own.
        let has_links = entries.iter().any(|entry| entry.sort == Sort::Link);
        let same = |twin: Twin<'_>| same::texts(&wanted, |entry| self.inside(entry), twin.workspace);
        let instead = twin.filter(|_| !has_links).map(same).unwrap_or_default();
        let is_known = |entry: &&Entry| self.inside(entry).is_some_and(|path| instead.contains_key(path));
        let (known, others): (Vec<&Entry>, Vec<&Entry>) = wanted.iter().partition(|entry| is_known(entry));
        taken.leave_empty(&known)?;
        taken.take(others.into_iter())?;
        taken.links(entries)?;
        taken.blind_spots.extend(entries.iter().filter_map(|entry| self.other_repository(entry)));
        Ok(Checkout { root, blind_spots: taken.blind_spots, instead, laid_out: taken.laid_out, folder })
    }

    fn entries(&self, revision: &Revision) -> Result<Vec<Entry>, RevisionError> {
        let listed = self.program.bytes(&["ls-tree", "-r", "-z", "-l", "--full-tree", &revision.commit])?;
        Ok(tree::parse(&listed.map_err(RevisionError::Failed)?))
    }

    /// The path of an entry from the root of the workspace; none, if it is not below that.
    fn inside<'e>(&self, entry: &'e Entry) -> Option<&'e str> {
        entry.path.strip_prefix(self.prefix.as_str())
    }

    /// By entry whether it is laid out: what somebody reads, ignore files on the way to it, and small files around it.
    fn wanted(&self, entries: &[Entry], plan: &Plan) -> Vec<bool> {
        let mut on_the_way: HashSet<&str> = HashSet::new();
        let is_read = |entry: &Entry| {
            entry.sort == Sort::File && self.inside(entry).is_some_and(|path| plan.is_wanted(path))
        };
        let read: Vec<bool> = entries.iter().map(is_read).collect();
        for (entry, _) in entries.iter().zip(&read).filter(|(_, read)| **read) {
            let mut folder = entry.folder();
            while on_the_way.insert(folder) && !folder.is_empty() {
                folder = folder.rsplit_once('/').map_or("", |(above, _)| above);
            }
        }
        let around = |entry: &Entry| {
            let is_ignore_file = matches!(entry.name(), ".gitignore" | ".ignore");
            entry.sort == Sort::File
                && (is_ignore_file || entry.size <= AROUND && on_the_way.contains(entry.folder()))
        };
        entries.iter().zip(read).map(|(entry, read)| read || around(entry)).collect()
    }

    fn other_repository(&self, entry: &Entry) -> Option<BlindSpot> {
        let path = self.inside(entry)?;
        (entry.sort == Sort::Repository)
            .then(|| unseen(path, "it is another repository, of which a revision holds nothing but a name"))
    }
}

/// Most bytes of files that are laid out in memory.
const IN_MEMORY: u64 = 48 << 20;
/// The folder that a revision is laid out in, within one that goes away.
const TOP: &str = "revision";
/// Where files are kept in memory, on systems that have such a folder: a disk takes some twenty times as long to make as
/// many.
const MEMORY: &str = "/dev/shm";

/// A folder for files of at most so many bytes.
fn scratch(most: u64) -> io::Result<TempDir> {
    let in_memory = (most <= IN_MEMORY).then(|| tempfile::tempdir_in(MEMORY).ok()).flatten();
    in_memory.map_or_else(tempfile::tempdir, Ok)
}

fn unseen(path: &str, why: &str) -> BlindSpot {
    BlindSpot {
        kind: BlindSpotKind::UnreadableFile,
        subject: path.to_owned(),
        message: why.to_owned(),
        places: Vec::new(),
    }
}

/// Files that are being laid out.
struct Taking<'a> {
    repository: &'a Repository,
    revision: &'a Revision,
    top: &'a Path,
    twin: Option<&'a Checkout>,
    laid_out: HashMap<PathBuf, String>,
    blind_spots: Vec<BlindSpot>,
}

impl Taking<'_> {
    /// Lays out files.
    fn take<'e>(&mut self, entries: impl Iterator<Item = &'e Entry>) -> Result<(), RevisionError> {
        let (large, entries): (Vec<&Entry>, Vec<&Entry>) = entries.partition(|entry| entry.size > LARGEST);
        for entry in large {
            self.tell(entry, "it is larger than 512 MiB");
        }
        self.make_folders(&entries)?;
        let entries: Vec<&Entry> = entries.into_iter().filter(|entry| !self.link_to_twin(entry)).collect();
        // The program unpacks on one thread: as many of it run as there are threads.
        let few = entries.len().div_ceil(rayon::current_num_threads()).max(FEW);
        let parts: Result<Vec<_>, RevisionError> =
            entries.par_chunks(few).map(|few| self.write(few)).collect();
        for (entry, is_there) in entries.iter().zip(parts?.into_iter().flatten()) {
            if is_there {
                self.laid_out.insert(entry.on_disk.clone(), entry.id.clone());
            } else {
                self.tell(entry, "it only names a large file, whose contents are kept elsewhere");
            }
        }
        Ok(())
    }

    /// Makes the folders that files are in.
    fn make_folders(&self, of: &[&Entry]) -> Result<(), RevisionError> {
        let mut made: HashSet<&Path> = HashSet::new();
        for folder in of.iter().filter_map(|entry| entry.on_disk.parent()) {
            if made.insert(folder) {
                fs::create_dir_all(self.top.join(folder))?;
            }
        }
        Ok(())
    }

    /// Makes files with nothing in them.
    fn leave_empty(&self, entries: &[&Entry]) -> Result<(), RevisionError> {
        self.make_folders(entries)?;
        let made = entries.par_iter().map(|entry| fs::write(self.top.join(&entry.on_disk), ""));
        Ok(made.collect::<io::Result<()>>()?)
    }

    /// Writes files; of each whether it is there now, or only names one that is kept elsewhere.
    fn write(&self, entries: &[&Entry]) -> Result<Vec<bool>, RevisionError> {
        let mut written = Vec::with_capacity(entries.len());
        let ids: Vec<&str> = entries.iter().map(|entry| entry.id.as_str()).collect();
        self.repository.program.blobs(&ids, |number, bytes| {
            let entry = entries[number];
            let bytes = bytes.map_err(|reason| RevisionError::Lacking {
                revision: self.revision.name.clone(),
                path: self.repository.inside(entry).unwrap_or(&entry.path).to_owned(),
                reason,
            })?;
            let is_there = !bytes.starts_with(POINTER);
            if is_there {
                fs::write(self.top.join(&entry.on_disk), bytes)?;
            }
            written.push(is_there);
            Ok(())
        })?;
        Ok(written)
    }

    /// Whether a file is the same in the twin, and is now here too.
    fn link_to_twin(&mut self, entry: &Entry) -> bool {
        let twin = self.twin.filter(|twin| twin.laid_out.get(&entry.on_disk) == Some(&entry.id));
        let is_linked = twin.is_some_and(|twin| {
            fs::hard_link(twin.top().join(&entry.on_disk), self.top.join(&entry.on_disk)).is_ok()
        });
        if is_linked {
            self.laid_out.insert(entry.on_disk.clone(), entry.id.clone());
        }
        is_linked
    }

    /// Lays out links that stay inside.
    fn links(&mut self, entries: &[Entry]) -> Result<(), RevisionError> {
        let links: Vec<&Entry> = entries.iter().filter(|entry| entry.sort == Sort::Link).collect();
        let ids: Vec<&str> = links.iter().map(|entry| entry.id.as_str()).collect();
        let mut targets: Vec<Vec<u8>> = Vec::new();
        self.repository.program.blobs(&ids, |_, bytes| {
            targets.push(bytes.unwrap_or_default());
            Ok(())
        })?;
        for (entry, target) in links.into_iter().zip(targets) {
            match String::from_utf8(target) {
                Ok(target) if tree::stays_inside(&entry.path, &target) => self.link(entry, &target)?,
                _ => self.tell(entry, "it is a link that leads out of the revision"),
            }
        }
        Ok(())
    }

    #[cfg(unix)]
    fn link(&self, entry: &Entry, target: &str) -> Result<(), RevisionError> {
        let path = self.top.join(&entry.on_disk);
        fs::create_dir_all(path.parent().unwrap_or(self.top))?;
        Ok(std::os::unix::fs::symlink(target, path)?)
    }

    #[cfg(not(unix))]
    fn link(&mut self, entry: &Entry, _: &str) -> Result<(), RevisionError> {
        self.tell(entry, "it is a link, which is not made on this system");
        Ok(())
    }

    /// Says that a file below the root is not there.
    fn tell(&mut self, entry: &Entry, why: &str) {
        if let Some(path) = self.repository.inside(entry) {
            self.blind_spots.push(unseen(path, why));
        }
    }
}
