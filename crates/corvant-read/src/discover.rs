//! Finding manifests below a folder.
//!
//! Ignore files (`.gitignore`, `.ignore`) and hidden folders are respected as most tools do, wherever the
//! folder lies. Links are followed; what two paths lead to is read once, and a ring of links is noted.

use crate::plan::Plan;
use ignore::{DirEntry, Error, WalkBuilder, WalkState};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};
use std::path::{MAIN_SEPARATOR, Path, PathBuf};
use std::sync::mpsc;

/// What was found below a folder, in the order of paths.
#[derive(Debug, Default)]
pub struct Discovery {
    /// Manifests: the path to open, by the path relative to the root, with `/`.
    pub manifests: BTreeMap<String, PathBuf>,
    /// Those of them that are no regular files: opening a pipe would wait for somebody to write to it.
    pub irregular: BTreeSet<String>,
    /// Folders and links that could not be looked into, with the reason.
    pub unreadable: BTreeMap<String, String>,
    /// Links that lead back to a folder above them, with that folder.
    pub rings: BTreeMap<String, String>,
}

enum Seen {
    File { relative: String, path: PathBuf, is_regular: bool },
    Link,
    Trouble(Error),
}

/// Looks through the part of a folder that is in scope, on `threads` threads. The result does not depend on
/// them.
pub fn discover(root: &Path, plan: &Plan, threads: usize) -> Discovery {
    let (sender, seen) = mpsc::channel();
    let walker = WalkBuilder::new(root)
        .follow_links(true)
        .require_git(false)
        .git_global(false)
        .threads(threads)
        .build_parallel();
    walker.run(|| {
        let sender = sender.clone();
        Box::new(move |entry| {
            let relative = entry.as_ref().map_or_else(|_| String::new(), |at| relative(root, at.path()));
            if entry.as_ref().is_ok_and(|at| at.depth() > 0) && plan.scope.excludes(&relative) {
                return WalkState::Skip;
            }
            for seen in look_at(entry, relative, plan) {
                // The receiver lives until the walk is over.
                let _ = sender.send(seen);
            }
            WalkState::Continue
        })
    });
    drop(sender);
    let mut found = Discovery::default();
    let mut has_links = false;
    let mut files = Vec::new();
    for seen in seen {
        match seen {
            Seen::Link => has_links = true,
            Seen::Trouble(error) => found.note_trouble(root, plan, error),
            Seen::File { relative, path, is_regular } => {
                if !is_regular {
                    found.irregular.insert(relative.clone());
                }
                files.push((relative, path));
            }
        }
    }
    // All at once: a map grows fastest out of what is in order.
    files.par_sort_unstable();
    found.manifests = files.into_iter().collect();
    if has_links {
        found.drop_second_paths(root);
    }
    found
}

fn look_at(entry: Result<DirEntry, Error>, relative: String, plan: &Plan) -> impl Iterator<Item = Seen> {
    let (entry, error) = match entry {
        Ok(entry) => (Some(entry), None),
        Err(error) => (None, Some(Seen::Trouble(error))),
    };
    let link = entry.as_ref().filter(|entry| entry.path_is_symlink()).map(|_| Seen::Link);
    let file = entry.filter(|entry| {
        let is_folder = entry.file_type().is_some_and(|kind| kind.is_dir());
        !is_folder && plan.is_wanted(&relative) && plan.scope.includes(&relative)
    });
    let file = file.map(|entry| {
        let is_regular = entry.file_type().is_some_and(|kind| kind.is_file());
        Seen::File { relative, path: entry.into_path(), is_regular }
    });
    [link, file, error].into_iter().flatten()
}

/// A path as findings name it: relative to the root, with `/`.
fn relative(root: &Path, path: &Path) -> String {
    let path = path.strip_prefix(root).unwrap_or(path).to_string_lossy();
    if path.is_empty() { ".".to_owned() } else { path.replace(MAIN_SEPARATOR, "/") }
}

impl Discovery {
    fn note_trouble(&mut self, root: &Path, plan: &Plan, error: Error) {
        match error {
            Error::Loop { ancestor, child } => {
                self.rings.insert(relative(root, &child), relative(root, &ancestor));
            }
            Error::WithPath { path, err } => {
                let relative = relative(root, &path);
                match *err {
                    Error::Loop { .. } => self.note_trouble(root, plan, *err),
                    // A dead link is nobody's manifest, unless its name says that it should be one.
                    err if path.is_symlink() && !path.exists() => {
                        if plan.is_wanted(&relative) {
                            self.unreadable
                                .insert(relative, format!("the link leads nowhere ({})", reason(&err)));
                        }
                    }
                    err => {
                        self.unreadable.insert(relative, reason(&err));
                    }
                }
            }
            Error::WithDepth { err, .. } | Error::WithLineNumber { err, .. } => {
                self.note_trouble(root, plan, *err);
            }
            // Faults of ignore files are not the audit's.
            _ => {}
        }
    }

    /// Where several paths lead to one file, keeps the one without links, or the first by name.
    fn drop_second_paths(&mut self, root: &Path) {
        let real_root = root.canonicalize().unwrap_or_else(|_| root.to_owned());
        let mut kept: BTreeMap<PathBuf, (bool, String)> = BTreeMap::new();
        for (relative, path) in &self.manifests {
            let Ok(real) = path.canonicalize() else { continue };
            let key = (real != real_root.join(relative), relative.clone());
            let best = kept.entry(real).or_insert_with(|| key.clone());
            if key < *best {
                *best = key;
            }
        }
        self.manifests.retain(|relative, path| {
            path.canonicalize().is_ok_and(|real| kept.get(&real).is_none_or(|(_, kept)| kept == relative))
        });
    }
}

fn reason(error: &Error) -> String {
    error.io_error().map_or_else(|| error.to_string(), plain_reason)
}

/// What went wrong, without the number that the system has for it.
pub(crate) fn plain_reason(error: &std::io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_lowercase()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::fs;
    use std::os::unix::fs::symlink;

    fn folder(files: &[&str]) -> tempfile::TempDir {
        let folder = tempfile::tempdir().unwrap();
        for file in files {
            let path = folder.path().join(file);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, "corvant: 1\n").unwrap();
        }
        folder
    }

    fn names(found: &Discovery) -> Vec<&str> {
        found.manifests.keys().map(String::as_str).collect()
    }

    #[test]
    fn manifests_are_found_in_order_and_ignore_files_respected() {
        let folder = folder(&[
            "b/b.wiring.yaml",
            "a/a.wiring.yml",
            "a/a.yaml",
            "a/z.wiring.json",
            "a/z.wiring.toml",
            "a/z.json",
            "out/o.wiring.yaml",
            ".hidden/h.wiring.yaml",
            "c.wiring.yaml",
            "kept/out.wiring.yaml",
        ]);
        fs::write(folder.path().join(".gitignore"), "/out/\n").unwrap();
        for threads in [1, 4] {
            let found = discover(folder.path(), &Plan::default(), threads);
            let expected = "a/a.wiring.yml a/z.wiring.json a/z.wiring.toml b/b.wiring.yaml c.wiring.yaml \
                            kept/out.wiring.yaml";
            assert_eq!(names(&found).join(" "), expected);
        }
    }

    #[test]
    fn names_are_told_as_they_are_and_the_root_as_a_point() {
        use std::ffi::OsStr;
        use std::os::unix::ffi::OsStrExt;
        let told = |path: &[u8]| relative(Path::new("/w"), Path::new(OsStr::from_bytes(path)));
        assert_eq!(told(b"/w"), ".");
        assert_eq!(told(b"/w/a/b.wiring.yaml"), "a/b.wiring.yaml");
        assert_eq!(told(b"/w/a\\b/c.yaml"), "a\\b/c.yaml");
        assert_eq!(told(b"/w/\xff/c.yaml"), "\u{fffd}/c.yaml");
        assert_eq!(told(b"/elsewhere/c.yaml"), "/elsewhere/c.yaml");
    }

    #[test]
    fn a_pipe_is_found_and_known_for_one() {
        let folder = folder(&["a.wiring.yaml"]);
        let pipe = folder.path().join("p.wiring.yaml");
        assert!(std::process::Command::new("mkfifo").arg(&pipe).status().unwrap().success());
        symlink(&pipe, folder.path().join("linked.wiring.yaml")).unwrap();
        let found = discover(folder.path(), &Plan::default(), 2);
        // Of two paths to one file the one without links is kept.
        assert_eq!(names(&found), ["a.wiring.yaml", "p.wiring.yaml"]);
        assert!(!found.irregular.contains("a.wiring.yaml") && found.irregular.contains("p.wiring.yaml"));
    }

    #[test]
    fn links_are_followed_rings_noted_and_files_read_once() {
        let folder = folder(&["real/a.wiring.yaml"]);
        let root = folder.path();
        let outside = self::folder(&["o.wiring.yaml"]);
        symlink(outside.path(), root.join("linked")).unwrap();
        symlink(root.join("real"), root.join("again")).unwrap();
        symlink(root, root.join("real/up")).unwrap();
        symlink(root.join("nowhere"), root.join("dead")).unwrap();
        symlink(root.join("self.wiring.yaml"), root.join("self.wiring.yaml")).unwrap();
        let found = discover(root, &Plan::default(), 2);
        assert_eq!(names(&found), ["linked/o.wiring.yaml", "real/a.wiring.yaml"]);
        assert_eq!(found.unreadable.keys().collect::<Vec<_>>(), ["self.wiring.yaml"]);
        assert!(found.rings.contains_key("real/up"), "{:?}", found.rings);
    }
}
