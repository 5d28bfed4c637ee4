//! What ignore files and dots before names do not hide, since readers or members of the workspace file name it.

use globset::{Glob, GlobBuilder, GlobSet, GlobSetBuilder};

/// Folders and files that globs name: the last part of what a glob says of them has no wildcard in it.
#[derive(Debug, Default)]
pub(crate) struct NamedPaths {
    folders: GlobSet,
    files: GlobSet,
}

impl NamedPaths {
    /// What members and the files of readers name.
    pub(crate) fn new<'glob>(
        members: impl Iterator<Item = &'glob Glob>,
        files: impl Iterator<Item = &'glob Glob>,
    ) -> Self {
        let (mut named_folders, mut named_files) = (Vec::new(), Vec::new());
        for glob in members {
            named_folders.extend(beginnings(glob.glob()));
            // A member may be a file.
            named_files.extend(is_plain(last(glob.glob())).then(|| glob.glob()));
        }
        for glob in files {
            let glob = glob.glob();
            let Some((folder, _)) = glob.rsplit_once('/') else {
                named_files.extend(is_plain(glob).then_some(glob));
                continue;
            };
            named_folders.extend(beginnings(folder));
            // Of a folder that is named, the files that are meant are named too.
            named_files.extend((is_plain(last(folder)) || is_plain(last(glob))).then_some(glob));
        }
        Self { folders: set(&named_folders), files: set(&named_files) }
    }

    pub(crate) fn has(&self, path: &str, is_folder: bool) -> bool {
        let named = if is_folder { &self.folders } else { &self.files };
        !named.is_empty() && named.is_match(path)
    }
}

/// The beginnings of a glob that end in a part without a wildcard.
fn beginnings(glob: &str) -> impl Iterator<Item = &str> {
    let ends = glob.match_indices('/').map(|(at, _)| at).chain([glob.len()]);
    ends.map(|end| &glob[..end]).filter(|beginning| is_plain(last(beginning)))
}

fn last(glob: &str) -> &str {
    glob.rsplit('/').next().unwrap_or(glob)
}

fn is_plain(part: &str) -> bool {
    !part.is_empty() && !part.contains(['*', '?'])
}

/// Beginnings that are no globs, since alternatives with folders in them are cut, name nothing.
fn set(globs: &[&str]) -> GlobSet {
    let mut builder = GlobSetBuilder::new();
    for glob in globs {
        if let Ok(glob) = GlobBuilder::new(glob).literal_separator(true).build() {
            builder.add(glob);
        }
    }
    builder.build().unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::above_the_folder(&["build/gen/*.xml"], "build", true, true)]
    #[case::the_folder(&["build/gen/*.xml"], "build/gen", true, true)]
    #[case::its_files(&["build/gen/*.xml"], "build/gen/a.xml", false, true)]
    #[case::not_other_files(&["build/gen/*.xml"], "build/gen/a.txt", false, false)]
    #[case::beside_it(&["build/gen/*.xml"], "build/tmp", true, false)]
    #[case::anywhere(&["**/objects/*.xml"], "a/objects", true, true)]
    #[case::only_by_a_wildcard(&["modules/**/*.xml"], "modules/target", true, false)]
    #[case::a_file_in_the_root(&["objects.xml"], "objects.xml", false, true)]
    #[case::any_file_in_the_root(&["*.xml"], "objects.xml", false, false)]
    #[case::alternatives(&["{build,out}/gen/*.xml"], "out", true, true)]
    #[case::alternatives_with_folders(&["{build/a,out}/*.xml"], "build", true, false)]
    fn readers_name_folders_and_files(
        #[case] globs: &[&str],
        #[case] path: &str,
        #[case] is_folder: bool,
        #[case] expected: bool,
    ) {
        let globs: Vec<Glob> = globs.iter().map(|glob| Glob::new(glob).unwrap()).collect();
        assert_eq!(NamedPaths::new([].into_iter(), globs.iter()).has(path, is_folder), expected);
    }

    #[rstest]
    #[case("build/gen", "build", true)]
    #[case("build/gen", "build/gen", true)]
    #[case("build/gen", "build/gen/deeper", false)]
    #[case("modules/*", "modules", true)]
    #[case("modules/*", "modules/a", false)]
    fn members_name_folders(#[case] glob: &str, #[case] path: &str, #[case] expected: bool) {
        let globs = [Glob::new(glob).unwrap()];
        assert_eq!(NamedPaths::new(globs.iter(), [].into_iter()).has(path, true), expected);
    }
}
