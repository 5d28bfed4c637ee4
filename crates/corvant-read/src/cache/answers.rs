//! Answers that are given once more, as long as nothing they were made from is another.
//!
//! What an answer is made from: the program, the question with all that says how it is answered, the workspace file, what
//! is found below the root (ignore files count every time), what the system says of each file that is read, and what was
//! looked for beside those, be it that it was not there.

use super::state::FileState;
use super::{Cache, Twice, of_program, read, twice};
use crate::workspace::Found;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

/// Where more than so much was looked for beside the files that are read, the answer is not kept.
const CONSULTED: usize = 10_000;

/// What was found below a root, and what the system said of each file before it was read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct MadeFrom(Twice);

impl MadeFrom {
    /// `None`: of some file it cannot be told whether it will be the same, such as one that was changed just now.
    pub fn new(found: &Found<'_>) -> Option<Self> {
        let states = found.files().par_iter();
        let states = states.map(|file| FileState::of_file(&file.path).filter(FileState::is_settled));
        let states: Vec<FileState> = states.collect::<Option<_>>()?;
        Some(Self(twice((found.said(), states))))
    }
}

/// What was looked for beside the files that are read, and what was there.
#[derive(Debug, Default)]
pub struct Consulted(Mutex<BTreeMap<String, There>>);

/// What is at a path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
enum There {
    Nothing,
    File(FileState),
    /// A folder, with what its names are.
    Folder(Twice),
    /// What is not looked into.
    Other,
}

impl There {
    fn at(path: &Path) -> Self {
        match fs::metadata(path) {
            Err(_) => Self::Nothing,
            Ok(known) if known.is_file() => FileState::new(&known).map_or(Self::Other, Self::File),
            Ok(known) if known.is_dir() => {
                let entries = fs::read_dir(path).into_iter().flatten().flatten();
                let mut names: Vec<_> = entries.map(|entry| entry.file_name()).collect();
                names.sort_unstable();
                Self::Folder(twice(names))
            }
            Ok(_) => Self::Other,
        }
    }

    fn will_show(self) -> bool {
        match self {
            Self::Nothing | Self::Folder(_) => true,
            Self::File(state) => state.is_settled(),
            Self::Other => false,
        }
    }
}

/// Takes note of what is looked for below a root.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Consulting<'a> {
    pub(crate) root: &'a Path,
    pub(crate) noted: &'a Consulted,
}

impl Consulting<'_> {
    /// Before it is looked for.
    pub(crate) fn note(&self, path: &str) {
        let mut noted = self.noted.0.lock().unwrap_or_else(PoisonError::into_inner);
        if noted.len() <= CONSULTED && !noted.contains_key(path) {
            noted.insert(path.to_owned(), There::at(&self.root.join(path)));
        }
    }
}

/// What was answered.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Answer {
    /// The exit status.
    pub status: u8,
    /// What was written.
    pub text: String,
}

impl Answer {
    /// A longer text is not kept, in bytes: to write and read that takes its time too.
    pub const LONGEST: usize = 16 << 20;
}

/// An answer that is written down, and what it was made from.
#[derive(Serialize, Deserialize)]
struct Kept<A> {
    made_from: Twice,
    consulted: Vec<(String, There)>,
    answer: A,
}

/// A question about a workspace.
#[derive(Debug)]
pub struct Question<'a> {
    root: &'a Path,
    cache: Cache,
    file: PathBuf,
}

impl<'a> Question<'a> {
    /// What is asked, with all that says how it is answered, about what is below a root; answers are kept in a folder.
    /// `None`: here nothing tells for sure that a file is the same.
    pub fn new(folder: &Path, root: &'a Path, asked: &str) -> Option<Self> {
        if !cfg!(unix) {
            return None;
        }
        let whole = of_program(&[&std::path::absolute(root).ok()?.display().to_string(), asked])?;
        let cache = Cache::new(folder);
        let file = cache.file("answer", whole.as_bytes());
        Some(Self { root, cache, file })
    }

    /// What was answered before, if it would be the same now.
    pub fn answer(&self, made_from: MadeFrom) -> Option<Answer> {
        let kept: Kept<Answer> = read(&self.file)?;
        let is_same = |(path, there): &(String, There)| There::at(&self.root.join(path)) == *there;
        (kept.made_from == made_from.0 && kept.consulted.iter().all(is_same)).then_some(kept.answer)
    }

    /// Keeps an answer for the next time, unless nothing would tell that it is another by then.
    pub fn keep(&self, made_from: MadeFrom, consulted: Consulted, answer: &Answer) {
        let consulted = consulted.0.into_inner().unwrap_or_else(PoisonError::into_inner);
        let is_too_much = consulted.len() > CONSULTED || answer.text.len() > Answer::LONGEST;
        if is_too_much || !consulted.values().all(|there| there.will_show()) {
            return;
        }
        let consulted = consulted.into_iter().collect();
        self.cache.write(&self.file, &Kept { made_from: made_from.0, consulted, answer });
        self.cache.tidy();
    }
}
