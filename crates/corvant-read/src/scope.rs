//! Which files belong to a workspace.

use crate::native::workspace_file::Settings;
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use globset::{Glob, GlobSet, GlobSetBuilder};

/// Which paths below the root are looked at.
#[derive(Debug, Default)]
pub struct Scope {
    members: Option<(GlobSet, Vec<Glob>)>,
    exclude: GlobSet,
}

impl Scope {
    /// The scope that a workspace file sets.
    pub fn new(settings: &Settings) -> Self {
        let members = settings.members.as_deref().map(|globs| (set(globs), globs.to_vec()));
        Self { members, exclude: set(&settings.exclude) }
    }

    /// Whether a path, or a folder above it, is left out.
    pub fn excludes(&self, path: &str) -> bool {
        !self.exclude.is_empty() && with_folders(path).any(|path| self.exclude.is_match(path))
    }

    /// Whether a file is looked at: it, or a folder above it, is a member and none is left out.
    pub fn includes(&self, path: &str) -> bool {
        let is_member = |(members, _): &(GlobSet, _)| with_folders(path).any(|path| members.is_match(path));
        self.members.as_ref().is_none_or(is_member) && !self.excludes(path)
    }

    /// A blind spot for each member that no manifest belongs to.
    pub fn empty_members<'path>(&self, manifests: impl Iterator<Item = &'path str>) -> Vec<BlindSpot> {
        let Some((set, globs)) = &self.members else { return Vec::new() };
        let mut found = vec![false; globs.len()];
        for path in manifests.flat_map(with_folders) {
            set.matches(path).into_iter().for_each(|glob| found[glob] = true);
        }
        let empty = globs.iter().zip(found).filter(|(_, found)| !found);
        empty
            .map(|(glob, _)| BlindSpot {
                kind: BlindSpotKind::EmptyMember,
                subject: glob.glob().to_owned(),
                message: "the workspace file names it as a member, and no manifest lies there".to_owned(),
                places: Vec::new(),
            })
            .collect()
    }
}

fn set(globs: &[Glob]) -> GlobSet {
    let mut builder = GlobSetBuilder::new();
    for glob in globs {
        builder.add(glob.clone());
    }
    // Each glob was compiled when it was read.
    builder.build().unwrap_or_default()
}

/// A path, and the paths of the folders above it.
fn with_folders(path: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(Some(path), |path| path.rsplit_once('/').map(|(folder, _)| folder))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn globs(texts: &[&str]) -> Vec<Glob> {
        texts
            .iter()
            .map(|text| globset::GlobBuilder::new(text).literal_separator(true).build().unwrap())
            .collect()
    }

    #[rstest]
    #[case::no_members(None, &[], "a/b.wiring.yaml", true)]
    #[case::below_a_member(Some(&["a"][..]), &[], "a/b/c.wiring.yaml", true)]
    #[case::beside_a_member(Some(&["a"][..]), &[], "ab/c.wiring.yaml", false)]
    #[case::one_level(Some(&["modules/*"][..]), &[], "modules/a/b/c.wiring.yaml", true)]
    #[case::a_file(Some(&["*.wiring.yaml"][..]), &[], "c.wiring.yaml", true)]
    #[case::stars_stop_at_folders(Some(&["*.wiring.yaml"][..]), &[], "a/c.wiring.yaml", false)]
    #[case::left_out(None, &["old"], "old/b.wiring.yaml", false)]
    #[case::anywhere(None, &["**/old"], "a/old/b.wiring.yaml", false)]
    #[case::left_out_of_a_member(Some(&["a"][..]), &["a/old"], "a/old/b.wiring.yaml", false)]
    fn members_and_exclusions_decide(
        #[case] members: Option<&[&str]>,
        #[case] exclude: &[&str],
        #[case] path: &str,
        #[case] expected: bool,
    ) {
        let settings =
            Settings { members: members.map(globs), exclude: globs(exclude), ..Settings::default() };
        assert_eq!(Scope::new(&settings).includes(path), expected);
    }

    #[test]
    fn a_member_without_manifests_is_said() {
        let members = Some(globs(&["modules/*", "plugins"]));
        let scope = Scope::new(&Settings { members, ..Settings::default() });
        let spots = scope.empty_members(["modules/a/a.wiring.yaml"].into_iter());
        assert_eq!(spots.iter().map(|spot| spot.subject.as_str()).collect::<Vec<_>>(), ["plugins"]);
    }
}
