//! What several declarations of one setting, tag or contract say together.
//!
//! They add up. Where they say different things of the same, the one that is first in the order of the files
//! counts, and a rule reports it. Of a setting the value for a stage goes before the one for all, and what the
//! workspace file says for a stage before what manifests say.

use crate::facts::{Facts, Header, Many, Named, Setting, SourceKind, Tag};
use crate::name::Name;
use foldhash::{HashMap, HashMapExt};

/// Declarations by name.
#[derive(Debug, Default)]
pub struct Declared {
    /// Each tag once, with all that its declarations say, in the order of their first declarations.
    pub tags: Vec<Tag>,
    /// By setting that has several declarations those, by number in the facts.
    pub(crate) several_settings: HashMap<Name, Vec<u32>>,
    /// By contract that has several declarations those, by number in the facts.
    pub(crate) several_contracts: HashMap<Name, Vec<u32>>,
    /// By tag that has several declarations those, by number in the facts.
    pub(crate) several_tags: HashMap<Name, Vec<u32>>,
    /// By setting that has several declarations, and stage for which one of them gives a value, who does.
    givers: HashMap<(Name, Name), Giver>,
    /// By source: whether it is the workspace file.
    is_workspace: Vec<bool>,
}

/// A value of a setting, with the settings it refers to.
pub(crate) type SettingValue = (Named, Many<Named>);

/// Who gives a value for a stage; the workspace file goes first.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
enum Giver {
    /// The workspace file.
    Workspace,
    /// A manifest.
    Manifest,
}

impl Declared {
    pub(super) fn new(facts: &Facts, headers: &[Header]) -> Self {
        let several_tags = several(facts.tags.iter().map(|tag| tag.tag.name));
        let mut declared = Self {
            tags: merged_tags(facts, &several_tags),
            several_settings: several(facts.settings.iter().map(|setting| setting.setting.name)),
            several_contracts: several(facts.contracts.iter().map(|contract| contract.contract.name)),
            several_tags,
            givers: HashMap::new(),
            is_workspace: headers.iter().map(|header| header.kind == SourceKind::WorkspaceFile).collect(),
        };
        for &number in declared.several_settings.values().flatten() {
            let setting = &facts.settings[number as usize];
            for value in setting.stages.of(&facts.parts) {
                let giver = declared.giver(setting);
                let known = declared.givers.entry((setting.setting.name, value.stage.name));
                known.and_modify(|known| *known = giver.min(*known)).or_insert(giver);
            }
        }
        declared
    }

    /// Who gives the values for stages that a declaration holds.
    fn giver(&self, setting: &Setting) -> Giver {
        if self.is_workspace[setting.source.index()] { Giver::Workspace } else { Giver::Manifest }
    }

    /// The value of a declaration that counts in a stage, if it has one that no other goes before.
    pub(crate) fn value(
        &self,
        facts: &Facts,
        setting: &Setting,
        stage: Option<Name>,
    ) -> Option<SettingValue> {
        let mut in_stage = setting.stages.of(&facts.parts).iter();
        let in_stage = in_stage.rfind(|value| Some(value.stage.name) == stage);
        let first = stage.and_then(|stage| self.givers.get(&(setting.setting.name, stage)).copied());
        match in_stage {
            Some(value) if first.is_none_or(|first| first == self.giver(setting)) => {
                Some((value.value, value.references))
            }
            Some(_) => None,
            None if first.is_some() => None,
            None => Some((setting.value?, setting.references)),
        }
    }
}

/// By name that comes more than once the positions at which it does.
fn several(names: impl Iterator<Item = Name>) -> HashMap<Name, Vec<u32>> {
    let mut first: HashMap<Name, u32> = HashMap::new();
    let mut several: HashMap<Name, Vec<u32>> = HashMap::new();
    for (at, name) in names.enumerate() {
        let first = *first.entry(name).or_insert(at as u32);
        if first != at as u32 {
            several.entry(name).or_insert_with(|| vec![first]).push(at as u32);
        }
    }
    several
}

fn merged_tags(facts: &Facts, several: &HashMap<Name, Vec<u32>>) -> Vec<Tag> {
    let mut tags = Vec::with_capacity(facts.tags.len());
    for (at, tag) in facts.tags.iter().enumerate() {
        let Some(numbers) = several.get(&tag.tag.name) else {
            tags.push(*tag);
            continue;
        };
        if numbers[0] as usize != at {
            continue;
        }
        let all = || numbers.iter().map(|&number| &facts.tags[number as usize]);
        tags.push(Tag {
            contract: all().find_map(|tag| tag.contract),
            carried_by_all: all().any(|tag| tag.carried_by_all),
            at_least: all().map(|tag| tag.at_least).find(|&least| least > 0).unwrap_or(0),
            attributes: all().find_map(|tag| tag.attributes),
            ..*tag
        });
    }
    tags
}
