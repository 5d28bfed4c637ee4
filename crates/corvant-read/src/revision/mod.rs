//! Revisions of a repository, read out of its object database.
//!
//! The version-control program is asked through its plumbing, which prints what is stored and changes nothing: neither
//! the work tree nor the index nor any reference. What readers want of a revision is laid out in a folder of its own that
//! goes away again, so that ignore files, links and archives mean there what they mean in a checkout.

mod program;
mod same;
mod taking;
mod tree;

pub use same::Twin;

use crate::files::{TEXT_LIMIT, plain_reason};
use crate::mend::Texts;
use crate::native::workspace_file;
use crate::plan::Plan;
use crate::workspace::{WorkspaceError, plan_of};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use program::Program;
use std::collections::{HashMap, HashSet};
use std::fs;
use std::io::{self, ErrorKind};
use std::path::{Path, PathBuf};
use taking::Taking;
use tempfile::TempDir;
use tree::{Entry, Link, Sort};

/// Most bytes of a file that no reader wants and that lies beside one: some readers look around.
const AROUND: u64 = 64 << 10;
/// Most bytes of a file that is taken out of a revision.
const LARGEST: u64 = 512 << 20;
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

impl Revision {
    /// The id of its commit.
    pub fn commit(&self) -> &str {
        &self.commit
    }
}

/// What a revision holds, by name.
#[derive(Debug)]
pub struct Listed {
    revision: Revision,
    entries: Vec<Entry>,
}

/// What in a revision says how it is to be read.
struct Guides<'e> {
    links: Vec<Link<'e>>,
    /// The workspace file.
    file: Option<&'e Entry>,
    /// What it says, if it is there.
    settings: Option<Vec<u8>>,
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
    /// The id of each of those files, by the same path.
    stored: HashMap<String, String>,
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

    /// The folder within the repository, with `/` at its end; empty: the top.
    pub fn prefix(&self) -> &str {
        &self.prefix
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

    /// What a revision holds.
    pub fn list(&self, revision: &Revision) -> Result<Listed, RevisionError> {
        let listed = self.program.bytes(&["ls-tree", "-r", "-z", "--full-tree", &revision.commit])?;
        let entries = tree::parse(&listed.map_err(RevisionError::Failed)?);
        if !self.prefix.is_empty() && !entries.iter().any(|entry| self.inside(entry).is_some()) {
            let path = self.prefix.trim_end_matches('/').to_owned();
            return Err(RevisionError::NoPath { revision: revision.name.clone(), path });
        }
        Ok(Listed { revision: revision.clone(), entries })
    }

    /// Lays out what readers want of a revision. Of files whose text is the same in a state that was read before, or else
    /// in what lies in the folder, there are but the names; other files that are the same in one that is laid out already
    /// are linked to those, and must not be written to.
    pub fn check_out(&self, listed: &Listed, twin: Option<Twin<'_>>) -> Result<Checkout, RevisionError> {
        let Listed { revision, entries } = listed;
        let Guides { links, file, settings } = self.guides(entries)?;
        let plan = plan_of(settings)
            .map_err(|error| RevisionError::Workspace { revision: revision.name.clone(), error })?;
        let (read, around) = self.wanted(entries, &plan, file);
        let instead = self.same(&read, &links, twin);
        let is_known = |entry: &&Entry| self.inside(entry).is_some_and(|path| instead.contains_key(path));
        let (known, read): (Vec<&Entry>, Vec<&Entry>) = read.into_iter().partition(is_known);
        let wanted = self.sized(read, around)?;
        let most: u64 = wanted.iter().map(|(_, size)| size).filter(|&&size| size <= LARGEST).sum();
        let lay_out = |folder| self.lay_out(listed, (&known, &wanted, &links), folder, twin);
        let mut laid_out = or_on_disk(scratch(most)?, lay_out)?;
        let stored =
            known.iter().filter_map(|entry| Some((self.inside(entry)?.to_owned(), entry.id.clone())));
        laid_out.stored = stored.collect();
        laid_out.instead = instead;
        Ok(laid_out)
    }

    fn lay_out(
        &self,
        Listed { revision, entries }: &Listed,
        (known, wanted, links): (&[&Entry], &[(&Entry, u64)], &[Link<'_>]),
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
        taken.leave_empty(known)?;
        taken.take(wanted)?;
        taken.link(links)?;
        taken.blind_spots.extend(entries.iter().filter_map(|entry| self.other_repository(entry)));
        let Taking { blind_spots, laid_out, .. } = taken;
        let (instead, stored) = (Texts::default(), HashMap::new());
        Ok(Checkout { root, blind_spots, instead, stored, folder, laid_out })
    }

    /// What says how to read a revision.
    fn guides<'e>(&self, entries: &'e [Entry]) -> Result<Guides<'e>, RevisionError> {
        let links = entries.iter().filter(|entry| entry.sort == Sort::Link).collect::<Vec<_>>();
        let targets = self.small(&links)?;
        let links = links.into_iter().zip(targets).map(|(entry, target)| {
            let target = target.and_then(|target| String::from_utf8(target).ok());
            Link { entry, target: target.unwrap_or_default() }
        });
        let links: Vec<Link<'_>> = links.collect();
        let at = format!("{}{}", self.prefix, workspace_file::NAME);
        let linked = links.iter().find(|link| link.entry.path == at).and_then(Link::leads_to);
        let at = linked.unwrap_or(at);
        let file = entries.iter().find(|entry| entry.sort == Sort::File && entry.path == at);
        let settings = self.small(file.as_slice())?.pop().flatten();
        let settings = settings.filter(|text| !text.starts_with(POINTER));
        Ok(Guides { links, file, settings })
    }

    /// The contents of what is there and no larger than a text that is read.
    fn small(&self, entries: &[&Entry]) -> Result<Vec<Option<Vec<u8>>>, RevisionError> {
        let ids: Vec<&str> = entries.iter().map(|entry| entry.id.as_str()).collect();
        let sizes = self.program.sizes(&ids)?;
        let is_small = |number: &usize| sizes[*number].is_some_and(|size| size <= TEXT_LIMIT);
        let numbers: Vec<usize> = (0..ids.len()).filter(is_small).collect();
        let ids: Vec<&str> = numbers.iter().map(|&number| ids[number]).collect();
        let mut small = vec![None; entries.len()];
        self.program.blobs(&ids, |number, bytes| {
            small[numbers[number]] = bytes.ok();
            Ok(())
        })?;
        Ok(small)
    }

    /// Files whose text is known, by their paths from the root: as a state has it that was read before, or else what lies
    /// in the folder. What a link leads to is read by another path than its own: its text is not known by that.
    fn same(&self, read: &[&Entry], links: &[Link<'_>], twin: Option<Twin<'_>>) -> Texts {
        if links.iter().any(|link| tree::turns_round(&link.target)) {
            return Texts::default();
        }
        let linked: HashSet<String> = links.iter().filter_map(Link::leads_to).collect();
        let is_linked = |entry: &Entry| {
            let mut above = entry.path.match_indices('/').map(|(at, _)| &entry.path[..at]);
            linked.contains("") || linked.contains(&entry.path) || above.any(|folder| linked.contains(folder))
        };
        let is_named = |entry: &Entry| entry.on_disk.to_str() == Some(&entry.path) && !is_linked(entry);
        let named = read.iter().filter(|entry| is_named(entry));
        let named: Vec<(&str, &str)> =
            named.filter_map(|entry| Some((self.inside(entry)?, entry.id.as_str()))).collect();
        match twin {
            Some(twin) => same::in_state(&named, twin),
            None => same::in_folder(&named, self.program.folder()),
        }
    }

    /// The path of an entry from the root of the workspace; none, if it is not below that.
    fn inside<'e>(&self, entry: &'e Entry) -> Option<&'e str> {
        entry.path.strip_prefix(self.prefix.as_str())
    }

    /// What somebody reads; and what may be looked at besides: ignore files on the way to it, and files around it.
    fn wanted<'e>(
        &self,
        entries: &'e [Entry],
        plan: &Plan,
        workspace_file: Option<&'e Entry>,
    ) -> (Vec<&'e Entry>, Vec<&'e Entry>) {
        let mut on_the_way: HashSet<&str> = HashSet::new();
        let is_read = |entry: &&Entry| {
            workspace_file == Some(*entry) || self.inside(entry).is_some_and(|path| plan.is_wanted(path))
        };
        let files = entries.iter().filter(|entry| entry.sort == Sort::File);
        let (read, others): (Vec<&Entry>, Vec<&Entry>) = files.partition(is_read);
        for entry in &read {
            let mut folder = entry.folder();
            while on_the_way.insert(folder) && !folder.is_empty() {
                folder = folder.rsplit_once('/').map_or("", |(above, _)| above);
            }
        }
        let is_around = |entry: &&Entry| entry.is_ignore_file() || on_the_way.contains(entry.folder());
        (read, others.into_iter().filter(is_around).collect())
    }

    /// What is laid out of files that are read and of those around them, with their sizes; of what is not there the size
    /// is nothing.
    fn sized<'e>(
        &self,
        read: Vec<&'e Entry>,
        around: Vec<&'e Entry>,
    ) -> Result<Vec<(&'e Entry, u64)>, RevisionError> {
        let count = read.len();
        let all: Vec<&Entry> = read.into_iter().chain(around).collect();
        let sizes = self.program.sizes(&all.iter().map(|entry| entry.id.as_str()).collect::<Vec<_>>())?;
        let sized = all.into_iter().zip(sizes.into_iter().map(Option::unwrap_or_default)).enumerate();
        let is_small = |&(number, (entry, size)): &(usize, (&Entry, u64))| {
            number < count || entry.is_ignore_file() || size <= AROUND
        };
        Ok(sized.filter(is_small).map(|(_, sized)| sized).collect())
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

/// Lays out in a folder, or on disk if there was no room: memory may be shorter than it seems.
fn or_on_disk<T>(
    folder: TempDir,
    lay_out: impl Fn(TempDir) -> Result<T, RevisionError>,
) -> Result<T, RevisionError> {
    match lay_out(folder) {
        Err(RevisionError::Io { is_full: true, .. }) => lay_out(tempfile::tempdir()?),
        laid_out => laid_out,
    }
}

fn unseen(path: &str, why: &str) -> BlindSpot {
    BlindSpot {
        kind: BlindSpotKind::UnreadableFile,
        subject: path.to_owned(),
        message: why.to_owned(),
        places: Vec::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use std::cell::RefCell;

    /// Where the first folder fails, the second is another, and only for want of room.
    #[rstest]
    #[case::no_room(Some(ErrorKind::StorageFull), 2, true)]
    #[case::not_allowed(Some(ErrorKind::PermissionDenied), 1, false)]
    #[case::room(None, 1, true)]
    fn what_finds_no_room_in_memory_is_laid_out_on_disk(
        #[case] failure: Option<ErrorKind>,
        #[case] folders: usize,
        #[case] is_done: bool,
    ) {
        let tried = RefCell::new(Vec::new());
        let lay_out = |folder: TempDir| {
            tried.borrow_mut().push(folder.path().to_owned());
            match failure.filter(|_| tried.borrow().len() == 1) {
                Some(kind) => Err(RevisionError::from(io::Error::from(kind))),
                None => Ok(folder.path().is_dir()),
            }
        };
        let done = or_on_disk(tempfile::tempdir().unwrap(), lay_out);
        assert_eq!(done.is_ok_and(|is_there| is_there), is_done);
        assert_eq!(tried.borrow().iter().collect::<HashSet<_>>().len(), folders);
    }
}
