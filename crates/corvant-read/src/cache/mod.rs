//! What was once found or answered, kept for the next time.
//!
//! Of a jar what is in it: to unpack and read thousands of classes takes longer than all else together. A jar is known
//! again by what the system says of its file, else by a hash of all that is in it. Of source what it declares, by its text
//! (`outlines`). Of an audit its whole answer, for as long as nothing it was made from is another (`answers`), and what it
//! found in a revision (`baselines`). What is kept is written whole or not at all, has a hash of its
//! own, and belongs to one version of the program; whatever is wrong with it is as if it were not there. Nothing here is
//! ever an error: without a cache the result is the same.

mod answers;
mod baselines;
mod outlines;
mod state;

pub(crate) use answers::Consulting;
pub use answers::{Answer, Consulted, MadeFrom, Question};
pub use baselines::OfRevision;
pub(crate) use outlines::Outlines;

use crate::types::JarTypes;
use foldhash::quality::FixedState;
use serde::Serialize;
use serde::de::DeserializeOwned;
use sha2::{Digest, Sha256};
use state::FileState;
use std::fmt::Write as _;
use std::fs::{self, Metadata};
use std::hash::BuildHasher;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::SystemTime;

/// A larger file of the cache is none, in bytes.
const FILE_LIMIT: u64 = 64 << 20;
/// All of them together, in bytes; when there are more the oldest go.
const SIZE_LIMIT: u64 = 1 << 30;

type Hash = [u8; 32];

/// Two hashes, by seeds of their own: nobody chooses what is hashed.
type Twice = [u64; 2];

fn twice(of: impl std::hash::Hash) -> Twice {
    [FixedState::with_seed(1), FixedState::with_seed(2)].map(|state| state.hash_one(&of))
}

/// A folder that things are kept in.
#[derive(Debug)]
pub(crate) struct Cache {
    folder: PathBuf,
    /// Whether anything was added.
    has_more: AtomicBool,
}

/// A jar while it is looked for.
pub(crate) struct Known {
    state: FileState,
    content: Hash,
}

impl Cache {
    /// The cache in a folder, which is made when something is to be kept.
    pub(crate) fn new(folder: &Path) -> Self {
        Self { folder: folder.to_owned(), has_more: AtomicBool::new(false) }
    }

    /// What was found in a jar when it was last read, and as what it is known. That of neither is there: its file cannot
    /// be read, which is told by whoever reads it.
    pub(crate) fn look_up(&self, jar: &Path) -> (Option<JarTypes>, Option<Known>) {
        let state = FileState::of_file(jar);
        let Some(state) = state else { return (None, None) };
        let by_path = self.by_path(jar);
        let remembered: Option<(FileState, Hash)> = by_path.as_deref().and_then(read);
        let same = remembered.filter(|(before, _)| *before == state).map(|(_, content)| content);
        let Some(content) = same.or_else(|| hash_of_file(jar)) else { return (None, None) };
        let found: Option<JarTypes> = read(&self.by_content(&content));
        if same.is_none()
            && found.is_some()
            && state.is_settled()
            && let Some(by_path) = by_path
        {
            self.write(&by_path, &(state, content));
        }
        (found, Some(Known { state, content }))
    }

    /// Keeps what was found in a jar, if that is surely what is in it.
    pub(crate) fn keep(&self, jar: &Path, known: &Known, types: &JarTypes) {
        if FileState::of_file(jar) != Some(known.state) || !known.state.is_settled() {
            return;
        }
        self.write(&self.by_content(&known.content), types);
        if let Some(by_path) = self.by_path(jar) {
            self.write(&by_path, &(known.state, known.content));
        }
    }

    /// Takes the oldest away, if there is more than there should be.
    pub(crate) fn tidy(&self) {
        if !self.has_more.load(Ordering::Relaxed) {
            return;
        }
        let files = fs::read_dir(&self.folder).into_iter().flatten().flatten();
        let known = files.filter_map(|file| {
            let of = file.metadata().ok().filter(Metadata::is_file)?;
            let is_ours = file.path().extension().is_some_and(|ending| ending == ENDING);
            is_ours.then(|| Some((of.modified().ok()?, of.len(), file.path()))).flatten()
        });
        let mut known: Vec<(SystemTime, u64, PathBuf)> = known.collect();
        known.sort_by(|one, other| other.cmp(one));
        let mut sum = 0;
        for (_, size, path) in known {
            // However small, each takes some room.
            sum += size + 4096;
            if sum > SIZE_LIMIT {
                drop(fs::remove_file(path));
            }
        }
    }

    fn file(&self, kind: &str, of: &[u8]) -> PathBuf {
        let hash = Sha256::new().chain_update(VERSION).chain_update(kind).chain_update(of).finalize();
        self.folder.join(hexadecimal(&hash)).with_extension(ENDING)
    }

    fn by_content(&self, content: &Hash) -> PathBuf {
        self.file("content", content)
    }

    fn by_path(&self, jar: &Path) -> Option<PathBuf> {
        let absolute = std::path::absolute(jar).ok()?;
        Some(self.file("path", absolute.as_os_str().as_encoded_bytes()))
    }

    fn write(&self, to: &Path, what: &impl Serialize) {
        let Ok(bytes) = rmp_serde::to_vec(what) else { return };
        if bytes.len() as u64 + 32 <= FILE_LIMIT && self.write_whole(to, &bytes).is_ok() {
            self.has_more.store(true, Ordering::Relaxed);
        }
    }

    fn write_whole(&self, to: &Path, bytes: &[u8]) -> io::Result<()> {
        fs::create_dir_all(&self.folder)?;
        let mut new = tempfile::NamedTempFile::new_in(&self.folder)?;
        new.write_all(&Sha256::digest(bytes))?;
        new.write_all(bytes)?;
        new.persist(to)?;
        Ok(())
    }
}

/// Something that is asked of this very program; `None`: nothing tells it from another.
fn of_program(asked: &[&str]) -> Option<String> {
    let program = FileState::of_file(&std::env::current_exe().ok()?)?;
    Some(format!("{program:?}\n{}", asked.join("\n")))
}

/// Bytes as two digits each.
pub(crate) fn hexadecimal(bytes: &[u8]) -> String {
    bytes.iter().fold(String::with_capacity(bytes.len() * 2), |mut digits, byte| {
        _ = write!(digits, "{byte:02x}");
        digits
    })
}

/// The ending of all that is kept.
const ENDING: &str = "kept";

/// What reads classes and source, and how that is written down: what another version kept is none of this one's.
const VERSION: [u8; 8] = {
    let parts: [&[u8]; 14] = [
        env!("CARGO_PKG_VERSION").as_bytes(),
        include_bytes!("../types/mod.rs"),
        include_bytes!("../types/lexer.rs"),
        include_bytes!("../types/tokens.rs"),
        include_bytes!("../types/skim.rs"),
        include_bytes!("../types/header.rs"),
        include_bytes!("../types/imports.rs"),
        include_bytes!("../types/members.rs"),
        include_bytes!("../types/marks.rs"),
        include_bytes!("../types/type_use.rs"),
        include_bytes!("../types/python.rs"),
        include_bytes!("../types/class_file.rs"),
        include_bytes!("../types/outline.rs"),
        include_bytes!("../standards/archive.rs"),
    ];
    // FNV-1a, by G. Fowler, L. C. Noll and K.-P. Vo.
    let (mut hash, mut part) = (0xcbf2_9ce4_8422_2325_u64, 0);
    while part < parts.len() {
        let mut at = 0;
        while at < parts[part].len() {
            hash = (hash ^ parts[part][at] as u64).wrapping_mul(0x0100_0000_01b3);
            at += 1;
        }
        part += 1;
    }
    hash.to_le_bytes()
};

fn read<T: DeserializeOwned>(path: &Path) -> Option<T> {
    let bytes = crate::files::read(path, FILE_LIMIT).ok()?;
    let (hash, rest) = bytes.split_first_chunk::<32>()?;
    let is_whole = Sha256::digest(rest).as_slice() == hash;
    is_whole.then(|| rmp_serde::from_slice(rest).ok()).flatten()
}

fn hash_of_file(path: &Path) -> Option<Hash> {
    let mut hash = Sha256::new();
    let mut file = crate::files::open(path).ok()?.0;
    io::copy(&mut file, &mut Hashing(&mut hash)).ok()?;
    Some(hash.finalize().into())
}

/// What is written is added to a hash.
struct Hashing<'a>(&'a mut Sha256);

impl Write for Hashing<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.update(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::fs::File;
    use std::time::Duration;

    #[test]
    fn the_oldest_go_first() {
        let folder = tempfile::tempdir().unwrap();
        let cache = Cache::new(folder.path());
        let names = ["c.kept", "a.kept", "b.kept", "foreign"];
        for (age, name) in names.iter().enumerate() {
            let file = File::create(folder.path().join(name)).unwrap();
            file.set_len(SIZE_LIMIT / 5 * 2).unwrap();
            file.set_modified(SystemTime::now() - Duration::from_secs(age as u64)).unwrap();
        }
        let left = || names.map(|name| folder.path().join(name).exists());
        cache.tidy();
        assert_eq!(left(), [true; 4], "nothing was added");
        cache.has_more.store(true, Ordering::Relaxed);
        cache.tidy();
        assert_eq!(left(), [true, true, false, true]);
    }
}
