//! What a revision holds, as `git ls-tree -r -z -l` lists it.

use std::path::PathBuf;

/// One thing in a revision.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Entry {
    pub(super) sort: Sort,
    /// By what it is stored.
    pub(super) id: String,
    /// Bytes; 0: it has none of its own.
    pub(super) size: u64,
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

    /// Its own name.
    pub(super) fn name(&self) -> &str {
        self.path.rsplit_once('/').map_or(&self.path, |(_, name)| name)
    }
}

/// The entries of a list; what has a path that no checkout could have is left out.
pub(super) fn parse(listed: &[u8]) -> Vec<Entry> {
    listed.split(|&byte| byte == 0).filter_map(entry).collect()
}

/// `100644 blob 89ab… 1234\tmodules/depot.wiring.yaml`
fn entry(line: &[u8]) -> Option<Entry> {
    let tab = line.iter().position(|&byte| byte == b'\t')?;
    let (about, path) = (std::str::from_utf8(&line[..tab]).ok()?, &line[tab + 1..]);
    let mut words = about.split_ascii_whitespace();
    let (mode, _, id, size) = (words.next()?, words.next()?, words.next()?, words.next()?);
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
        size: size.parse().unwrap_or(0),
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

/// Whether a link at a path leads to something in the same repository.
pub(super) fn stays_inside(path: &str, target: &str) -> bool {
    if target.starts_with('/') || target.is_empty() || target.contains(['\0', '\\']) {
        return false;
    }
    let mut depth = path.matches('/').count();
    for part in target.split('/') {
        match part {
            "" | "." => {}
            ".." if depth == 0 => return false,
            ".." => depth -= 1,
            part if part.eq_ignore_ascii_case(".git") => return false,
            _ => depth += 1,
        }
    }
    true
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn lists_are_read() {
        let listed = b"100644 blob 0a1b     12\ta/b c.yaml\x00120000 blob 0a1c      3\tlink\x00160000 commit 0a1d       -\tlib\x00";
        let seen: Vec<(Sort, u64, String)> =
            parse(listed).into_iter().map(|entry| (entry.sort, entry.size, entry.path)).collect();
        let expected =
            [(Sort::File, 12, "a/b c.yaml"), (Sort::Link, 3, "link"), (Sort::Repository, 0, "lib")];
        assert_eq!(seen, expected.map(|(sort, size, path)| (sort, size, path.to_owned())));
    }

    #[rstest]
    #[case::up("../x")]
    #[case::absolute("/etc/x")]
    #[case::own_folder(".GIT/config")]
    #[case::other_separator("a\\..\\b")]
    fn paths_that_lead_out_are_left_out(#[case] path: &str) {
        assert_eq!(parse(format!("100644 blob 0a 1\t{path}\0").as_bytes()), []);
    }

    #[rstest]
    #[case::beside("a/link", "b", true)]
    #[case::up("a/link", "../b", true)]
    #[case::out("a/link", "../../b", false)]
    #[case::out_by_a_detour("link", "a/../../b", false)]
    #[case::absolute("a/link", "/b", false)]
    fn links_stay_inside(#[case] path: &str, #[case] target: &str, #[case] inside: bool) {
        assert_eq!(stays_inside(path, target), inside);
    }

    #[cfg(unix)]
    #[test]
    fn bytes_that_are_no_text_come_back() {
        use std::os::unix::ffi::OsStrExt;
        let entries = parse(b"100644 blob 0a 1\ta/\xffb\0");
        assert_eq!(entries[0].on_disk.as_os_str().as_bytes(), b"a/\xffb");
        assert_eq!(entries[0].path, "a/\u{fffd}b");
    }
}
