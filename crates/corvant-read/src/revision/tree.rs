//! What a revision holds, as `git ls-tree -r -z` lists it. Sizes are not asked for here: to look
//! them up takes several times as long as all the rest.

use std::path::PathBuf;

/// One thing in a revision.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Entry {
    pub(super) sort: Sort,
    /// By what it is stored.
    pub(super) id: String,
    /// From the top of the repository, with `/`, as readers and reports name it.
    pub(super) path: String,
    /// The same as the system has it: paths need not be text.
    pub(super) on_disk: PathBuf,
}

/// What it is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Sort {
    File,
    Link,
    /// Another repository.
    Repository,
}

impl Entry {
    /// The folder that it is in; empty: the top.
    pub(super) fn folder(&self) -> &str {
        self.path.rsplit_once('/').map_or("", |(folder, _)| folder)
    }

    /// Whether it says which files are left out.
    pub(super) fn is_ignore_file(&self) -> bool {
        let name = self.path.rsplit_once('/').map_or(self.path.as_str(), |(_, name)| name);
        matches!(name, ".gitignore" | ".ignore")
    }
}

/// A link, and what it says; nothing, if that is no text.
#[derive(Debug)]
pub(super) struct Link<'e> {
    pub(super) entry: &'e Entry,
    pub(super) target: String,
}

impl Link<'_> {
    /// Where it leads in the same repository.
    pub(super) fn leads_to(&self) -> Option<String> {
        led_to(&self.entry.path, &self.target)
    }
}

/// The entries of a list; what has a path that no checkout could have is left out.
pub(super) fn parse(listed: &[u8]) -> Vec<Entry> {
    listed.split(|&byte| byte == 0).filter_map(entry).collect()
}

/// `100644 blob 89ab…\tmodules/depot.wiring.yaml`
fn entry(line: &[u8]) -> Option<Entry> {
    let tab = line.iter().position(|&byte| byte == b'\t')?;
    let (about, path) = (std::str::from_utf8(&line[..tab]).ok()?, &line[tab + 1..]);
    let mut words = about.split_ascii_whitespace();
    let (mode, _, id) = (words.next()?, words.next()?, words.next()?);
    let sort = match mode {
        "100644" | "100755" | "100664" => Sort::File,
        "120000" => Sort::Link,
        "160000" => Sort::Repository,
        _ => return None,
    };
    let is_safe = |part: &[u8]| {
        !matches!(part, b"" | b"." | b"..") && !part.eq_ignore_ascii_case(b".git") && !part.contains(&b'\\')
    };
    let is_safe = path.split(|&byte| byte == b'/').all(is_safe);
    is_safe.then(|| Entry {
        sort,
        id: id.to_owned(),
        path: String::from_utf8_lossy(path).into_owned(),
        on_disk: on_disk(path),
    })
}

#[cfg(unix)]
fn on_disk(path: &[u8]) -> PathBuf {
    use std::os::unix::ffi::OsStringExt;
    std::ffi::OsString::from_vec(path.to_owned()).into()
}

#[cfg(not(unix))]
fn on_disk(path: &[u8]) -> PathBuf {
    String::from_utf8_lossy(path).into_owned().into()
}

/// What a link at a path leads to in the same repository, from its top; `None`: it leads out. Where links follow on one
/// another, each says where it leads itself.
fn led_to(path: &str, target: &str) -> Option<String> {
    if target.starts_with('/') || target.is_empty() || target.contains(['\0', '\\']) {
        return None;
    }
    let mut parts: Vec<&str> = path.split('/').collect();
    parts.pop();
    for part in target.split('/') {
        match part {
            "" | "." => {}
            ".." => drop(parts.pop()?),
            part if part.eq_ignore_ascii_case(".git") => return None,
            part => parts.push(part),
        }
    }
    Some(parts.join("/"))
}

/// Whether a link to a target turns round on its way: where it leads is then not to be told from its text, as what it goes
/// through may be a link.
pub(super) fn turns_round(target: &str) -> bool {
    let parts = target.split('/').filter(|part| !matches!(*part, "" | "."));
    parts.skip_while(|&part| part == "..").any(|part| part == "..")
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn lists_are_read() {
        let listed = b"100644 blob 0a1b\ta/b c.yaml\x00120000 blob 0a1c\tlink\x00160000 commit 0a1d\tlib\x00";
        let seen: Vec<(Sort, String)> =
            parse(listed).into_iter().map(|entry| (entry.sort, entry.path)).collect();
        let expected = [(Sort::File, "a/b c.yaml"), (Sort::Link, "link"), (Sort::Repository, "lib")];
        assert_eq!(seen, expected.map(|(sort, path)| (sort, path.to_owned())));
    }

    #[rstest]
    #[case::up("../x")]
    #[case::absolute("/etc/x")]
    #[case::own_folder(".GIT/config")]
    #[case::other_separator("a\\..\\b")]
    fn paths_that_lead_out_are_left_out(#[case] path: &str) {
        assert_eq!(parse(format!("100644 blob 0a\t{path}\0").as_bytes()), []);
    }

    #[rstest]
    #[case::beside("a/link", "b", Some("a/b"), false)]
    #[case::up("a/link", "../b/c", Some("b/c"), false)]
    #[case::the_top("a/link", "..", Some(""), false)]
    #[case::by_a_detour("link", "a/./../b", Some("b"), true)]
    #[case::out("a/link", "../../b", None, false)]
    #[case::out_by_a_detour("link", "a/../../b", None, true)]
    #[case::absolute("a/link", "/b", None, false)]
    fn links_stay_inside(
        #[case] path: &str,
        #[case] target: &str,
        #[case] leads_to: Option<&str>,
        #[case] turns: bool,
    ) {
        assert_eq!((led_to(path, target).as_deref(), turns_round(target)), (leads_to, turns));
    }

    #[cfg(unix)]
    #[test]
    fn bytes_that_are_no_text_come_back() {
        use std::os::unix::ffi::OsStrExt;
        let entries = parse(b"100644 blob 0a\ta/\xffb\0");
        assert_eq!(entries[0].on_disk.as_os_str().as_bytes(), b"a/\xffb");
        assert_eq!(entries[0].path, "a/\u{fffd}b");
    }
}
