//! What ignore files hide: `.ignore`, `.gitignore` and `.git/info/exclude`, as most tools respect them.
//!
//! They are opened like every other file of a workspace, without waiting and up to a limit; one that is not read hides
//! nothing, and that is said.

use crate::files::{self, Refused};
use ignore::Match;
use ignore::gitignore::{Gitignore, GitignoreBuilder};
use std::path::Path;
use std::sync::Arc;

/// Most bytes of an ignore file.
pub(crate) const IGNORE_LIMIT: u64 = 1 << 20;
/// Most patterns in an ignore file.
pub(crate) const PATTERN_LIMIT: usize = 10_000;

/// What the ignore files of a folder, and of those above it, say.
#[derive(Debug)]
pub(super) struct Rules {
    above: Option<Arc<Rules>>,
    /// `.ignore`, which goes before the others, wherever they stand.
    own: Option<Gitignore>,
    git: Option<Gitignore>,
    exclude: Option<Gitignore>,
}

/// Which of the names in a folder have to do with ignore files.
#[derive(Debug, Default, Clone, Copy)]
pub(super) struct Present {
    pub(super) own: bool,
    pub(super) git: bool,
    pub(super) repository: bool,
}

impl Present {
    /// What is there, of a folder that is not listed.
    pub(super) fn in_folder(folder: &Path) -> Self {
        let has = |name| folder.join(name).symlink_metadata().is_ok();
        Self { own: has(".ignore"), git: has(".gitignore"), repository: has(".git") }
    }

    /// Takes note of a name in the folder.
    pub(super) fn see(&mut self, name: &std::ffi::OsStr) {
        self.own |= name == ".ignore";
        self.git |= name == ".gitignore";
        self.repository |= name == ".git";
    }
}

/// Whether something is hidden by ignore files; `Some(false)`: they say that it is not; `None`: they say nothing.
pub(super) fn is_ignored(rules: Option<&Arc<Rules>>, path: &Path, is_folder: bool) -> Option<bool> {
    let (mut own, mut git, mut exclude) = (None, None, None);
    let mut level = rules;
    while let Some(rules) = level {
        let said = |file: &Option<Gitignore>| match file.as_ref()?.matched(path, is_folder) {
            Match::None => None,
            Match::Ignore(_) => Some(true),
            Match::Whitelist(_) => Some(false),
        };
        own = own.or_else(|| said(&rules.own));
        git = git.or_else(|| said(&rules.git));
        exclude = exclude.or_else(|| said(&rules.exclude));
        level = rules.above.as_ref();
    }
    own.or(git).or(exclude)
}

impl Rules {
    /// The rules in a folder; those above it where it has none of its own. `unread` is told of ignore files that
    /// are not used: the name and why.
    pub(super) fn of_folder(
        above: Option<&Arc<Rules>>,
        folder: &Path,
        present: Present,
        mut unread: impl FnMut(&'static str, String),
    ) -> Option<Arc<Rules>> {
        let mut read = |is_there: bool, name: &'static str| {
            let file = is_there.then(|| patterns(folder, name))?;
            file.map_err(|why| unread(name, why)).ok().flatten()
        };
        let rules = Rules {
            above: above.cloned(),
            own: read(present.own, ".ignore"),
            git: read(present.git, ".gitignore"),
            exclude: read(present.repository, ".git/info/exclude"),
        };
        let says_something = rules.own.is_some() || rules.git.is_some() || rules.exclude.is_some();
        if says_something { Some(Arc::new(rules)) } else { above.cloned() }
    }
}

/// The patterns of an ignore file. One that cannot be understood hides nothing; the others do.
fn patterns(folder: &Path, name: &str) -> Result<Option<Gitignore>, String> {
    let bytes = match files::read(&folder.join(name), IGNORE_LIMIT) {
        Ok(bytes) => bytes,
        Err(Refused::Missing) => return Ok(None),
        Err(Refused::Because(why)) => return Err(why),
    };
    let text = String::from_utf8_lossy(&bytes);
    let text = text.strip_prefix('\u{feff}').unwrap_or(&text);
    if text.lines().filter(|line| !line.trim().is_empty()).count() > PATTERN_LIMIT {
        return Err(format!("it has more than {PATTERN_LIMIT} patterns"));
    }
    let mut builder = GitignoreBuilder::new(folder);
    for line in text.lines() {
        let _ = builder.add_line(None, line);
    }
    Ok(builder.build().ok().filter(|patterns| !patterns.is_empty()))
}
