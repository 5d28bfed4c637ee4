//! What is not looked at, by what hides it, so that the report can say so.

use corvant_core::finding::{BlindSpot, BlindSpotKind};

/// How many paths are named.
const NAMED: usize = 3;

/// What hides a path.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Hider {
    /// Ignore files.
    IgnoreFile,
    /// A name that begins with a dot.
    Dot,
    /// What the workspace file excludes.
    Exclude,
    /// That the workspace file names members, and it belongs to none.
    Members,
}

impl Hider {
    const ALL: [Self; 4] = [Self::IgnoreFile, Self::Dot, Self::Exclude, Self::Members];

    /// What the report tells it under, what it does, and how that goes on.
    fn words(self) -> (&'static str, &'static str, &'static str) {
        match self {
            Self::IgnoreFile => ("ignore files", "they hide ", ""),
            Self::Dot => ("hidden names", "a dot before the name hides ", ""),
            Self::Exclude => ("exclude", "the workspace file leaves out ", ""),
            Self::Members => ("members", "the workspace file names members; ", " in none of them"),
        }
    }
}

/// Folders that are not looked into, and files that somebody would read.
#[derive(Debug, Default, Hash)]
pub struct Hidden {
    paths: Vec<(Hider, IsFile, String)>,
}

/// Whether it is a file; folders are told first.
type IsFile = bool;

impl Hidden {
    pub(super) fn folder(&mut self, hider: Hider, path: &str) {
        self.paths.push((hider, false, path.to_owned()));
    }

    pub(super) fn file(&mut self, hider: Hider, path: &str) {
        self.paths.push((hider, true, path.to_owned()));
    }

    pub(super) fn append(&mut self, other: Self) {
        self.paths.extend(other.paths);
    }

    pub(super) fn sort(&mut self) {
        self.paths.sort_unstable();
    }

    /// A blind spot for each way of hiding.
    pub fn blind_spots(&self) -> Vec<BlindSpot> {
        let of = |hider| (hider, self.told(hider, false), self.told(hider, true));
        let told = Hider::ALL.into_iter().map(of);
        let spots = told.filter_map(|(hider, folders, files)| {
            let (subject, before, behind) = hider.words();
            let all: Vec<String> = folders.into_iter().chain(files).collect();
            let message = format!("{before}{}{behind}", all.join(" and "));
            let (kind, subject) = (BlindSpotKind::Hidden, subject.to_owned());
            (!all.is_empty()).then_some(BlindSpot { kind, subject, message, places: Vec::new() })
        });
        spots.collect()
    }

    /// How many folders or files, and the first of them by name.
    fn told(&self, hider: Hider, is_file: bool) -> Option<String> {
        let paths = || {
            let all = self.paths.iter().filter(move |(by, file, _)| (*by, *file) == (hider, is_file));
            all.map(|(_, _, path)| path.as_str())
        };
        let count = paths().count();
        let word = match (is_file, count) {
            (_, 0) => return None,
            (false, 1) => "folder",
            (false, _) => "folders",
            (true, 1) => "manifest",
            (true, _) => "manifests",
        };
        let named: Vec<&str> = paths().take(NAMED).collect();
        let more = if count > named.len() { ", …" } else { "" };
        Some(format!("{count} {word} ({}{more})", named.join(", ")))
    }
}
