//! Names that are needed in many places, defined nowhere, and begin alike: the host may bring them.

use corvant_core::audit::Report;
use corvant_core::wiring::Wiring;
use std::collections::{BTreeMap, BTreeSet};

/// Different names that begin alike, for it to mean anything.
const ALIKE: usize = 3;

/// Names that may be supplied.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Supplied {
    /// The field of the table that they stand under: `services`, `contracts`, `settings`.
    pub group: &'static str,
    /// What they begin with.
    pub beginning: String,
    /// The names.
    pub names: BTreeSet<String>,
    /// In how many places they are needed.
    pub places: usize,
}

/// What may be supplied, going by what an audit finds missing. Names for which something that is defined was probably meant
/// are none, nor those that begin as something that is defined does.
pub fn supplied(wiring: &Wiring, report: &Report) -> Vec<Supplied> {
    let defined: BTreeSet<&str> = wiring
        .facts
        .services
        .iter()
        .map(|service| wiring.text(service.id.name))
        .chain(wiring.facts.settings.iter().map(|setting| wiring.text(setting.setting.name)))
        .filter_map(beginning)
        .collect();
    let mut found: BTreeMap<(&'static str, &str), Supplied> = BTreeMap::new();
    for finding in &report.findings {
        let group = match finding.rule.name {
            "missing-service" => "services",
            "missing-implementation" => "contracts",
            "missing-setting" => "settings",
            _ => continue,
        };
        let Some(beginning) = beginning(&finding.subject).filter(|beginning| !defined.contains(beginning))
        else {
            continue;
        };
        if finding.fixes.iter().any(|fix| !fix.changes.is_empty()) {
            continue;
        }
        let supplied = found.entry((group, beginning)).or_insert_with(|| Supplied {
            group,
            beginning: beginning.to_owned(),
            names: BTreeSet::new(),
            places: 0,
        });
        supplied.names.insert(finding.subject.clone());
        supplied.places += finding.places.len();
    }
    found.into_values().filter(|supplied| supplied.names.len() >= ALIKE && supplied.places > ALIKE).collect()
}

/// What stands before the first separator of a name, with that.
fn beginning(name: &str) -> Option<&str> {
    let at = name.find(['.', '\\', ':', '/'])?;
    (at > 0).then(|| &name[..=at])
}

/// The table for a workspace file, with what speaks for each name.
pub(super) fn table(all: &[Supplied]) -> String {
    let mut by_group: BTreeMap<&str, Vec<&Supplied>> = BTreeMap::new();
    for supplied in all {
        by_group.entry(supplied.group).or_default().push(supplied);
    }
    let mut text = String::from(
        "[supplied]  # unsure: needed in many places and defined nowhere, so the host may bring them\n",
    );
    for (group, all) in by_group {
        let of = |supplied: &&Supplied| {
            let head = format!(
                "  # {}*: {} names in {} places\n",
                supplied.beginning,
                supplied.names.len(),
                supplied.places
            );
            let names = supplied.names.iter().map(|name| format!("  {},\n", super::lines::text(name)));
            std::iter::once(head).chain(names).collect::<String>()
        };
        let names: String = all.iter().map(of).collect();
        text = format!("{text}{group} = [\n{names}]\n");
    }
    text
}
