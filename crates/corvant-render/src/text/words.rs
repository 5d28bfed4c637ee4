//! Sentences about findings.

use crate::accounts::OWN;
use corvant_core::audit::{Coverage, Summary};
use corvant_core::finding::{Finding, Holds, Reach, Severity};
use corvant_core::wiring::Wiring;
use corvant_core::word::join_words;

/// How many entries a sentence names.
const NAMED: usize = 3;

/// When a fault shows and what it affects; `None` if it has no effect of its own at run time.
pub(crate) fn fails(wiring: &Wiring, reach: &Reach) -> Option<String> {
    if reach.services == 0 && reach.entries == 0 && reach.start_up.is_empty() {
        return None;
    }
    let affects = affects(reach);
    let facts = &wiring.facts;
    let provider = reach.start_up.first().map(|&provider| {
        let id = facts.providers[provider.index()].id.name;
        let more = reach.start_up.len() - 1;
        let rest = if more > 0 { format!(" and {more} more") } else { String::new() };
        format!("at start-up, in {}{rest}", wiring.text(id))
    });
    let entries: Vec<String> = reach
        .first_entries
        .iter()
        .take(NAMED)
        .map(|&entry| {
            let entry = &facts.entries[entry.index()];
            let at = entry.at.map_or_else(String::new, |at| format!(" ({})", wiring.text(at)));
            format!("{}{at}", wiring.text(entry.id.name))
        })
        .collect();
    let more = (reach.entries as usize).saturating_sub(entries.len());
    let entries =
        if more > 0 { format!("{} and {more} more", entries.join(", ")) } else { join_words(&entries) };
    let first_use = (!entries.is_empty()).then(|| format!("at the first use of {entries}"));
    let when = match (provider, first_use) {
        (Some(provider), Some(first_use)) => format!("{provider}; else {first_use}"),
        (Some(when), None) | (None, Some(when)) => when,
        (None, None) if reach.is_handed_out => {
            return Some(format!("when something first asks for it at run time, which is not seen{affects}"));
        }
        (None, None) => {
            return Some(format!("as soon as something uses it, which nothing does yet{affects}"));
        }
    };
    Some(format!("{when}{affects}"))
}

/// The module of a finding's first place; none, if that is in no module.
pub(crate) fn module_of<'a>(wiring: &'a Wiring, finding: &Finding) -> Option<&'a str> {
    finding.places.first().and_then(|place| wiring.module_name(place.source))
}

/// What is in no module, where modules are listed.
pub(crate) const NO_MODULE: &str = "no module";

/// How many findings there are of each severity that there are any of.
pub fn severities(summary: &Summary) -> Vec<(Severity, String)> {
    const WORDS: [(&str, &str); Severity::ALL.len()] =
        [("error", "errors"), ("warning", "warnings"), ("note", "notes")];
    let all = Severity::ALL.into_iter().zip(WORDS);
    let there = all.filter(|(severity, _)| summary.count(*severity) > 0);
    there.map(|(severity, (one, many))| (severity, counted(summary.count(severity), one, many))).collect()
}

/// What one reader read.
pub(crate) fn coverage(wiring: &Wiring, coverage: &Coverage) -> String {
    let name = coverage.reader.map_or(OWN, |reader| wiring.text(reader));
    let files = counted(coverage.files, "file", "files");
    let facts = counted(coverage.facts, "fact", "facts");
    let left = match coverage.left_over {
        0 => String::new(),
        left => format!(", {} left over", counted(left, "value", "values")),
    };
    format!("{name}: {files}, {facts}{left}")
}

/// The stages in which a finding holds that does not hold in all.
pub(crate) fn stages(wiring: &Wiring, holds: &Holds) -> String {
    let stages: Vec<&str> = holds.stages.iter().map(|&stage| wiring.text(stage)).collect();
    match (stages.as_slice(), holds.none_chosen) {
        ([], _) => "with none chosen".to_owned(),
        (stages, true) => format!("{}, and with none chosen", stages.join(", ")),
        (stages, false) => stages.join(", "),
    }
}

/// What fails with it, to stand behind when that is.
fn affects(reach: &Reach) -> String {
    let least = if reach.at_least { "at least " } else { "" };
    let services = counted(reach.services as usize, "service", "services");
    let entries = counted(reach.entries as usize, "entry", "entries");
    match (reach.services, reach.entries) {
        (0, _) => String::new(),
        (_, 0) => format!("; affects {least}{services}"),
        _ => format!("; affects {least}{services} and {entries}"),
    }
}

/// A number with its word.
pub fn counted(count: usize, one: &str, many: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { many })
}
