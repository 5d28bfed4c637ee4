//! Finding manifests below a folder.
//!
//! Ignore files (`.gitignore`, `.ignore`) and names that begin with a dot hide as in most tools, wherever the
//! folder lies, but for what is asked for by name: the root, and what readers and members name. What an open standard
//! installs is hidden by no ignore file either. All that is hidden is told. Links are followed; every real folder is
//! looked into once, and what two paths lead to is read once.
//! Folders are looked into level by level, each level on all threads, so that what comes of it does not depend on them.

mod hidden;
pub(crate) mod ignored;

use crate::files::plain_reason;
use crate::plan::{Plan, World};
pub use hidden::Hidden;
use hidden::Hider;
use ignored::{Present, Rules, is_ignored};
use rayon::prelude::*;
use std::borrow::Cow;
use std::collections::{BTreeMap, HashMap};
use std::ffi::OsStr;
use std::fmt::Write;
use std::fs::{self, DirEntry, FileType};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// What was found below a folder, in the order of paths.
#[derive(Debug, Default, Hash)]
pub struct Discovery {
    /// Manifests, in the order of the paths that they are told by.
    pub manifests: Vec<FoundFile>,
    /// Folders and links that could not be looked into, with the reason.
    pub unreadable: BTreeMap<String, String>,
    /// Links that lead nowhere, with what they name.
    pub dead_links: BTreeMap<String, String>,
    /// Links that lead back to a folder above them, with that folder.
    pub cycles: BTreeMap<String, String>,
    /// Ignore files that hide nothing, since they were not read, with the reason.
    pub unread_ignore_files: BTreeMap<String, String>,
    /// What is not looked at.
    pub hidden: Hidden,
}

/// A file that somebody reads.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FoundFile {
    /// The path relative to the root, with `/`, as findings tell it. Names are bytes: two of them may look alike.
    pub relative: String,
    /// The path to open.
    pub path: PathBuf,
    /// Whether it is a regular file: opening a pipe would wait for somebody to write to it.
    pub is_regular: bool,
}

/// A folder that is looked into.
struct Folder {
    /// The path by which it was come to, below the real root.
    path: PathBuf,
    /// Where it lies, without links.
    real: PathBuf,
    relative: String,
    rules: Option<Arc<Rules>>,
    /// Whether no ignore file hides it: its own neither.
    is_asked_for: bool,
}

/// What is in one folder.
#[derive(Default)]
struct Seen {
    folders: Vec<Folder>,
    /// Links to folders.
    links: Vec<Folder>,
    files: Vec<FoundFile>,
    /// Files that were come to over a link, with the place where they really lie, if that is known.
    linked: Vec<(FoundFile, Option<PathBuf>)>,
    unreadable: Vec<(String, String)>,
    dead_links: Vec<(String, String)>,
    unread_ignore_files: Vec<(String, String)>,
    hidden: Hidden,
}

/// Looks through the part of a folder that is in scope, on all threads. The result does not depend on them.
pub fn discover(root: &Path, plan: &Plan) -> Discovery {
    let mut found = Discovery::default();
    let path = root.canonicalize().unwrap_or_else(|_| root.to_owned());
    let rules = rules_above(&path);
    let mut walk = Walk { root: path.clone(), plan, visited: Known::default(), linked: Vec::new() };
    let mut links = walk.level_by_level(
        vec![Folder { real: path.clone(), path, relative: String::new(), rules, is_asked_for: true }],
        &mut found,
    );
    // What links lead to comes after all that is there without them: each real folder is looked into once.
    while !links.is_empty() {
        links.sort_unstable_by(|one, other| one.relative.cmp(&other.relative));
        let folders: Vec<Folder> =
            std::mem::take(&mut links).into_iter().filter_map(|link| walk.behind(link, &mut found)).collect();
        links = walk.level_by_level(folders, &mut found);
    }
    walk.take_linked_files(&mut found);
    found.manifests.par_sort_unstable();
    found.hidden.sort();
    found
}

/// What ignore files above the root say of what is in it. One that hides the root itself is not meant for who asks for it.
fn rules_above(root: &Path) -> Option<Arc<Rules>> {
    let mut folders: Vec<&Path> = root.ancestors().skip(1).collect();
    folders.reverse();
    folders.into_iter().fold(None, |above, folder| {
        // What lies above the root is not audited: an ignore file there that cannot be read is no fault of it.
        let rules = Rules::of_folder(above.as_ref(), folder, Present::in_folder(folder), |_, _| {});
        let hides_root = || is_ignored(rules.as_ref(), root, true) == Some(true);
        if hides_root() { above } else { rules }
    })
}

struct Walk<'p> {
    root: PathBuf,
    plan: &'p Plan,
    /// Real folders that were looked into.
    visited: Known,
    linked: Vec<(FoundFile, Option<PathBuf>)>,
}

/// What was come to already, by where it really lies, and the worlds that the paths to it belong to.
#[derive(Default)]
struct Known(HashMap<PathBuf, Vec<World>>);

impl Known {
    /// Whether it was come to in a world; what belongs to none is the same in all.
    fn has(&self, real: &Path, world: World) -> bool {
        self.0.get(real).is_some_and(|worlds| world.is_none() || worlds.contains(&world))
    }

    /// Takes note of it; whether it is new.
    fn insert(&mut self, real: PathBuf, world: World) -> bool {
        let is_new = !self.has(&real, world);
        if is_new {
            self.0.entry(real).or_default().push(world);
        }
        is_new
    }
}

impl Walk<'_> {
    /// Looks into folders and all below them; gives links to further ones.
    fn level_by_level(&mut self, mut level: Vec<Folder>, found: &mut Discovery) -> Vec<Folder> {
        let mut links = Vec::new();
        while !level.is_empty() {
            let seen: Vec<Seen> = level.par_iter().map(|folder| look_into(folder, self.plan)).collect();
            for folder in level {
                self.visited.insert(folder.real, self.plan.world(&folder.relative));
            }
            level = Vec::new();
            for seen in seen {
                let further = seen.folders.into_iter();
                level.extend(further.filter(|folder| {
                    // Without links there is one way to each folder.
                    folder.path == folder.real
                        || !self.visited.has(&folder.real, self.plan.world(&folder.relative))
                }));
                links.extend(seen.links);
                found.manifests.extend(seen.files);
                self.linked.extend(seen.linked);
                found.unreadable.extend(seen.unreadable);
                found.dead_links.extend(seen.dead_links);
                found.unread_ignore_files.extend(seen.unread_ignore_files);
                found.hidden.append(seen.hidden);
            }
        }
        links
    }

    /// The folder that a link leads to, if it is to be looked into.
    fn behind(&mut self, link: Folder, found: &mut Discovery) -> Option<Folder> {
        let real = match link.path.canonicalize() {
            Ok(real) => real,
            Err(error) => {
                found.unreadable.insert(link.relative, plain_reason(&error));
                return None;
            }
        };
        if link.real.starts_with(&real) {
            let to = match real.strip_prefix(&self.root) {
                Ok(inside) => shown_path(inside),
                Err(_) => shown_path(&real),
            };
            found.cycles.insert(link.relative, to);
            return None;
        }
        let world = self.plan.world(&link.relative);
        self.visited.insert(real.clone(), world).then_some(Folder { real, ..link })
    }

    /// Where several paths of one world lead to one file, keeps the one without links, or the first by name.
    fn take_linked_files(&mut self, found: &mut Discovery) {
        if self.linked.is_empty() {
            return;
        }
        self.linked.sort_unstable();
        let is_real = |file: &&FoundFile| file.path.starts_with(&self.root);
        let world = |file: &FoundFile| {
            self.plan.world(file.relative.rsplit_once('/').map_or("", |(folder, _)| folder))
        };
        let mut known = Known::default();
        for file in found.manifests.iter().filter(is_real) {
            known.insert(file.path.clone(), world(file));
        }
        for (file, real) in std::mem::take(&mut self.linked) {
            let real = real.or_else(|| file.path.canonicalize().ok());
            if real.is_none_or(|real| known.insert(real, world(&file))) {
                found.manifests.push(file);
            }
        }
    }
}

/// Looks into one folder.
fn look_into(folder: &Folder, plan: &Plan) -> Seen {
    let mut seen = Seen::default();
    let (entries, present) = list(folder, &mut seen);
    let below = |name: &str| match folder.relative.as_str() {
        "" => name.to_owned(),
        above => format!("{above}/{name}"),
    };
    let unread = &mut seen.unread_ignore_files;
    let mut rules = Rules::of_folder(folder.rules.as_ref(), &folder.path, present, |name, why| {
        unread.push((below(name), why));
    });
    let is_root = folder.relative.is_empty();
    if (is_root || present.own || present.git) && hide_all(rules.as_ref(), &entries) {
        if !folder.is_asked_for && !is_asked_for(folder, &entries, plan) {
            seen.hidden.folder(Hider::IgnoreFile, &folder.relative);
            return seen;
        }
        rules = folder.rules.clone().filter(|_| !is_root);
    }
    for entry in entries {
        let name = entry.file_name();
        let relative = below(&shown(&name));
        match entry.file_type() {
            Ok(kind) => look_at(&entry, kind, relative, folder, rules.as_ref(), plan, &mut seen),
            Err(error) => seen.unreadable.push((relative, plain_reason(&error))),
        }
    }
    seen
}

/// What is in a folder, and what of it has to do with ignore files.
fn list(folder: &Folder, seen: &mut Seen) -> (Vec<DirEntry>, Present) {
    let told = || if folder.relative.is_empty() { ".".to_owned() } else { folder.relative.clone() };
    let (mut entries, mut present) = (Vec::new(), Present::default());
    match fs::read_dir(&folder.path) {
        Ok(all) => {
            for entry in all {
                match entry {
                    Ok(entry) => {
                        present.see(&entry.file_name());
                        entries.push(entry);
                    }
                    Err(error) => seen.unreadable.push((told(), plain_reason(&error))),
                }
            }
        }
        Err(error) => seen.unreadable.push((told(), plain_reason(&error))),
    }
    (entries, present)
}

/// Whether ignore files hide all that is in a folder, and so the folder itself.
fn hide_all(rules: Option<&Arc<Rules>>, entries: &[DirEntry]) -> bool {
    let is_of_git = |name: &OsStr| name == ".gitignore" || name == ".ignore" || name == ".git";
    let mut others = entries.iter().filter(|entry| !is_of_git(&entry.file_name())).peekable();
    others.peek().is_some()
        && others.all(|entry| {
            let is_folder = entry.file_type().is_ok_and(|kind| kind.is_dir());
            is_ignored(rules, &entry.path(), is_folder) == Some(true)
        })
}

/// Whether a folder is read although its own ignore file hides it: it is named, or a standard installs into it.
fn is_asked_for(folder: &Folder, entries: &[DirEntry], plan: &Plan) -> bool {
    let installs = |entry: &DirEntry| plan.installs(&folder.relative, &entry.file_name());
    plan.named.has(&folder.relative, true) || entries.iter().any(installs)
}

/// Whether a thing in a folder is looked at.
enum Sight {
    /// It is.
    Open,
    /// It is, although ignore files hide it.
    AskedFor,
    Hidden(Hider),
}

fn sight(path: &Path, relative: &str, is_folder: bool, rules: Option<&Arc<Rules>>, plan: &Plan) -> Sight {
    let name = path.file_name().unwrap_or_default();
    let has_dot = name.as_encoded_bytes().starts_with(b".");
    let is_ignored = is_ignored(rules, path, is_folder);
    let all_the_same = || if is_ignored == Some(true) { Sight::AskedFor } else { Sight::Open };
    let hider = match is_ignored {
        Some(true) | None if has_dot => Hider::Dot,
        Some(true) => Hider::IgnoreFile,
        Some(false) | None => return Sight::Open,
    };
    if plan.named.has(relative, is_folder) {
        return all_the_same();
    }
    let is_installed = || {
        let above = relative.rsplit_once('/').map_or("", |(above, _)| above);
        let installs = |entry: DirEntry| plan.installs(relative, &entry.file_name());
        plan.installs(above, name)
            || is_folder && fs::read_dir(path).into_iter().flatten().flatten().any(installs)
    };
    if hider == Hider::IgnoreFile && is_installed() { all_the_same() } else { Sight::Hidden(hider) }
}

/// Looks at one thing in a folder.
fn look_at(
    entry: &DirEntry,
    kind: FileType,
    relative: String,
    folder: &Folder,
    rules: Option<&Arc<Rules>>,
    plan: &Plan,
    seen: &mut Seen,
) {
    let name = entry.file_name();
    // Of a folder it is not asked; of a link it is not known yet what it is.
    let is_wanted = !kind.is_dir() && plan.is_wanted(&relative);
    if kind.is_file() && !is_wanted || name == ".git" {
        return;
    }
    let path = folder.path.join(&name);
    let behind =
        if kind.is_symlink() { fs::metadata(&path).map(|known| known.file_type()) } else { Ok(kind) };
    let is_folder = behind.as_ref().is_ok_and(FileType::is_dir);
    let sight = if plan.scope.excludes(&relative) {
        Sight::Hidden(Hider::Exclude)
    } else {
        sight(&path, &relative, is_folder, rules, plan)
    };
    if let Sight::Hidden(hider) = sight {
        match is_folder {
            true => seen.hidden.folder(hider, &relative),
            false if is_wanted => seen.hidden.file(hider, &relative),
            false => {}
        }
        return;
    }
    let behind = match behind {
        Ok(behind) => behind,
        // A link that leads nowhere is no manifest, unless its name says that it should be one.
        Err(error) => {
            if plan.is_sure(&relative) {
                let named = fs::read_link(&path).map_or_else(|_| plain_reason(&error), |to| shown_path(&to));
                seen.dead_links.push((relative, named));
            }
            return;
        }
    };
    let real = folder.real.join(&name);
    if is_folder {
        // What is looked into although it is ignored is not judged by what ignores it.
        let is_asked_for = matches!(sight, Sight::AskedFor);
        let rules = rules.filter(|_| !is_asked_for).cloned();
        let further = Folder { path, real, relative, rules, is_asked_for };
        if kind.is_symlink() {
            seen.links.push(further);
        } else {
            seen.folders.push(further);
        }
        return;
    }
    if !is_wanted {
        return;
    }
    if !plan.scope.includes(&relative) {
        seen.hidden.file(Hider::Members, &relative);
        return;
    }
    let file = FoundFile { relative, path, is_regular: behind.is_file() };
    if kind.is_symlink() {
        seen.linked.push((file, None));
    } else if folder.path == folder.real {
        seen.files.push(file);
    } else {
        seen.linked.push((file, Some(real)));
    }
}

/// A path as findings tell it: with `/`.
fn shown_path(path: &Path) -> String {
    let parts: Vec<Cow<'_, str>> = path.iter().map(shown).collect();
    match parts.as_slice() {
        [] => ".".to_owned(),
        [root, rest @ ..] if path.has_root() => format!("{root}{}", rest.join("/")),
        parts => parts.join("/"),
    }
}

/// A name as findings tell it: bytes that are no text are written as `\xff`.
fn shown(name: &OsStr) -> Cow<'_, str> {
    if let Some(text) = name.to_str() {
        return Cow::Borrowed(text);
    }
    let mut told = String::new();
    for chunk in name.as_encoded_bytes().utf8_chunks() {
        told.push_str(&chunk.valid().replace('\\', "\\\\"));
        for byte in chunk.invalid() {
            write!(told, "\\x{byte:02x}").expect("writing to a String");
        }
    }
    Cow::Owned(told)
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;
    use corvant_testing::corpus::Random;
    use ignore::WalkBuilder;
    use rstest::rstest;
    use std::collections::BTreeSet;
    use std::os::unix::ffi::OsStrExt;
    use std::os::unix::fs::symlink;
    use std::process::Command;

    fn folder(files: &[&str]) -> tempfile::TempDir {
        let folder = tempfile::tempdir().unwrap();
        for file in files {
            let path = folder.path().join(file);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, "corvant: 1\n").unwrap();
        }
        folder
    }

    fn in_threads<T: Send>(threads: usize, work: impl FnOnce() -> T + Send) -> T {
        rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap().install(work)
    }

    fn names(found: &Discovery) -> Vec<&str> {
        found.manifests.iter().map(|file| file.relative.as_str()).collect()
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
            let found = in_threads(threads, || discover(folder.path(), &Plan::default()));
            let expected = "a/a.wiring.yml a/z.wiring.json a/z.wiring.toml b/b.wiring.yaml c.wiring.yaml \
                            kept/out.wiring.yaml";
            assert_eq!(names(&found).join(" "), expected);
        }
    }

    #[rstest]
    #[case(b"", ".")]
    #[case(b"a/b.wiring.yaml", "a/b.wiring.yaml")]
    #[case(b"a\\b/c.yaml", "a\\b/c.yaml")]
    #[case(b"a\\\xff/c.yaml", "a\\\\\\xff/c.yaml")]
    #[case(b"/elsewhere/c.yaml", "/elsewhere/c.yaml")]
    fn names_are_told_as_they_are(#[case] path: &[u8], #[case] expected: &str) {
        assert_eq!(shown_path(Path::new(OsStr::from_bytes(path))), expected);
    }

    #[test]
    fn names_that_differ_in_bytes_alone_are_two_files() {
        let folder = folder(&[]);
        for name in [b"\xfe.wiring.yaml", b"\xff.wiring.yaml"] {
            fs::write(folder.path().join(OsStr::from_bytes(name)), "corvant: 1\n").unwrap();
        }
        let found = discover(folder.path(), &Plan::default());
        assert_eq!(names(&found), ["\\xfe.wiring.yaml", "\\xff.wiring.yaml"]);
        assert!(found.manifests.iter().all(|file| file.path.exists()));
    }

    #[test]
    fn a_pipe_is_found_and_known_for_one() {
        let folder = folder(&["a.wiring.yaml"]);
        let pipe = folder.path().join("p.wiring.yaml");
        assert!(Command::new("mkfifo").arg(&pipe).status().unwrap().success());
        symlink(&pipe, folder.path().join("linked.wiring.yaml")).unwrap();
        let found = discover(folder.path(), &Plan::default());
        // Of two paths to one file the one without links is kept.
        assert_eq!(names(&found), ["a.wiring.yaml", "p.wiring.yaml"]);
        assert_eq!(found.manifests.iter().map(|file| file.is_regular).collect::<Vec<_>>(), [true, false]);
    }

    #[test]
    fn links_are_followed_cycles_noted_and_files_read_once() {
        let folder = folder(&["real/a.wiring.yaml"]);
        let root = folder.path();
        let outside = self::folder(&["o.wiring.yaml"]);
        symlink(outside.path(), root.join("linked")).unwrap();
        symlink(root.join("real"), root.join("again")).unwrap();
        symlink(root, root.join("real/up")).unwrap();
        symlink(root.join("nowhere"), root.join("dead")).unwrap();
        symlink(root.join("self.wiring.yaml"), root.join("self.wiring.yaml")).unwrap();
        let found = discover(root, &Plan::default());
        assert_eq!(names(&found), ["linked/o.wiring.yaml", "real/a.wiring.yaml"]);
        assert_eq!(found.dead_links.keys().collect::<Vec<_>>(), ["self.wiring.yaml"]);
        assert!(found.cycles.contains_key("real/up"), "{:?}", found.cycles);
    }

    #[test]
    fn one_file_that_two_worlds_reach_counts_in_both() {
        let folder = folder(&["dbus-1/services/a.service", "dbus-1/other/b.service"]);
        let root = folder.path().join("dbus-1");
        fs::create_dir(root.join("system-services")).unwrap();
        for name in ["a.service", "again.service"] {
            symlink("../services/a.service", root.join("system-services").join(name)).unwrap();
        }
        let found = discover(folder.path(), &Plan::default());
        let both =
            ["dbus-1/other/b.service", "dbus-1/services/a.service", "dbus-1/system-services/a.service"];
        assert_eq!(names(&found), both);
        // The same over a link to the folder.
        fs::remove_dir_all(root.join("system-services")).unwrap();
        symlink("services", root.join("system-services")).unwrap();
        symlink("services", root.join("more")).unwrap();
        let found = discover(folder.path(), &Plan::default());
        assert_eq!(names(&found)[..2], both[..2]);
        assert_eq!(names(&found)[2..], ["dbus-1/system-services/a.service"]);
    }

    #[test]
    fn links_that_lead_nowhere_are_told_where_they_would_be_read() {
        let folder = folder(&["a.wiring.yaml"]);
        for name in ["b.wiring.yaml", "c.txt", "unit.service", "org.velmora.Clock.service"] {
            symlink("gone/there", folder.path().join(name)).unwrap();
        }
        let bus = folder.path().join("dbus-1/services");
        fs::create_dir_all(&bus).unwrap();
        symlink("/gone/clock.service", bus.join("clock.service")).unwrap();
        let found = discover(folder.path(), &Plan::default());
        let dead: Vec<_> = found.dead_links.iter().map(|(path, to)| (path.as_str(), to.as_str())).collect();
        assert_eq!(
            dead,
            [("b.wiring.yaml", "gone/there"), ("dbus-1/services/clock.service", "/gone/clock.service")]
        );
        assert!(found.unreadable.is_empty());
    }

    #[test]
    fn links_that_cross_cost_what_one_walk_costs() {
        let folder = folder(&["0/a.wiring.yaml", "1/b.wiring.yaml"]);
        let root = folder.path();
        // Every folder has links to all others: as many ways as there are orders of them.
        for (from, to) in (0..32).flat_map(|from| (0..32).map(move |to| (from, to))) {
            fs::create_dir_all(root.join(from.to_string())).unwrap();
            symlink(root.join(to.to_string()), root.join(format!("{from}/to-{to}"))).unwrap();
        }
        let found = discover(root, &Plan::default());
        assert_eq!(names(&found), ["0/a.wiring.yaml", "1/b.wiring.yaml"]);
    }

    #[test]
    fn a_link_to_what_holds_the_root_is_noted_and_not_followed() {
        let folder = folder(&["in/a.wiring.yaml", "o.wiring.yaml"]);
        symlink("/", folder.path().join("in/all")).unwrap();
        symlink(folder.path(), folder.path().join("in/up")).unwrap();
        let found = discover(&folder.path().join("in"), &Plan::default());
        assert_eq!(names(&found), ["a.wiring.yaml"]);
        assert_eq!(found.cycles.keys().collect::<Vec<_>>(), ["all", "up"]);
        assert_eq!(found.cycles["all"], "/");
    }

    #[test]
    fn several_links_to_one_folder_are_one_whatever_lies_in_it() {
        let folder = folder(&["w/x.wiring.yaml"]);
        let outside = self::folder(&["deep/o.wiring.yaml", "p.wiring.yaml"]);
        let root = folder.path().join("w");
        symlink(outside.path().join("deep"), root.join("b")).unwrap();
        symlink(outside.path(), root.join("c")).unwrap();
        symlink(outside.path().join("p.wiring.yaml"), root.join("q.wiring.yaml")).unwrap();
        let found = discover(&root, &Plan::default());
        assert_eq!(names(&found), ["b/o.wiring.yaml", "c/p.wiring.yaml", "x.wiring.yaml"]);
    }

    #[rstest]
    #[case::pipe("mkfifo .gitignore", "it is no regular file")]
    #[case::device("ln -s /dev/zero .gitignore", "it is no regular file")]
    #[case::of_the_kernel("ln -s /proc/kmsg .gitignore", "")]
    #[case::large("head -c 1100000 /dev/zero > .gitignore", "it is larger than 1 MiB")]
    #[case::many("yes '*.o' | head -20000 > .gitignore", "it has more than 10000 patterns")]
    fn an_ignore_file_that_is_none_hides_nothing_and_is_told(#[case] make: &str, #[case] why: &str) {
        let folder = folder(&["a/b.wiring.yaml"]);
        assert!(
            Command::new("sh").arg("-c").arg(make).current_dir(folder.path()).status().unwrap().success()
        );
        let found = discover(folder.path(), &Plan::default());
        assert_eq!(names(&found), ["a/b.wiring.yaml"]);
        assert!(found.unread_ignore_files[".gitignore"].contains(why), "{:?}", found.unread_ignore_files);
    }

    /// Ignore files mean what they mean to the library that many tools use for it.
    #[test]
    fn what_ignore_files_hide_is_what_others_find_hidden() {
        let mut random = Random::new(7);
        let names = ["a", "b", "c", ".h", "d.wiring.yaml", "e.wiring.yaml", ".f.wiring.yaml"];
        let patterns = [
            "a",
            "/b",
            "a/",
            "*.yaml",
            "!d.wiring.yaml",
            "**/c",
            "b/*",
            "!b/e.wiring.yaml",
            "# a",
            "",
            "\\!x",
            "!.h",
            "c/**",
            "!.f.wiring.yaml",
            "[de].wiring.yaml",
            "a/b/c",
        ];
        let mut hidden = 0;
        for _ in 0..300 {
            let folder = tempfile::tempdir().unwrap();
            for _ in 0..12 {
                let depth = random.below(3);
                let mut path = folder.path().to_owned();
                path.extend((0..depth).map(|_| names[random.below(4)]));
                fs::create_dir_all(&path).unwrap();
                match random.below(4) {
                    0 => {
                        let ignore = [".gitignore", ".ignore"][random.below(2)];
                        let lines: Vec<&str> =
                            (0..=random.below(3)).map(|_| patterns[random.below(patterns.len())]).collect();
                        fs::write(path.join(ignore), lines.join("\n")).unwrap();
                    }
                    1 if random.below(3) == 0 => {
                        fs::create_dir_all(path.join(".git/info")).unwrap();
                        let pattern = patterns[random.below(patterns.len())];
                        fs::write(path.join(".git/info/exclude"), pattern).unwrap();
                    }
                    _ => fs::write(path.join(names[4 + random.below(3)]), "").unwrap(),
                }
            }
            let root = folder.path();
            let walk = WalkBuilder::new(root).require_git(false).git_global(false).build().flatten();
            let files = walk.filter(|entry| entry.file_type().is_some_and(|kind| kind.is_file()));
            let told = files.map(|entry| shown_path(entry.path().strip_prefix(root).unwrap()));
            let expected: BTreeSet<String> = told.filter(|path| path.ends_with(".wiring.yaml")).collect();
            let found = discover(root, &Plan::default());
            let names: BTreeSet<String> = found.manifests.into_iter().map(|file| file.relative).collect();
            let all = WalkBuilder::new(root).standard_filters(false).build().flatten().count();
            hidden += all - expected.len();
            assert_eq!(
                names,
                expected,
                "{:?}",
                Command::new("sh").arg("-c").arg("grep -r . .").current_dir(root).output()
            );
        }
        assert!(hidden > 1_000);
    }
}
