//! `lookalike-id`: ids apart only in letter case, separators or a pair that looks alike.

use crate::facts::Service;
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::ServiceIndex;
use foldhash::HashSet;
use rayon::prelude::*;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "lookalike-id",
        family: Family::Ambiguity,
        severity: Severity::Warning,
        summary: "ids apart only in letter case, separators or a pair that looks alike",
        why: "People read one and write the other, and reviews do not see it.",
        limits: "Separators are `.`, `-` and `_`; pairs that look alike are 0 and O, 1, l and I, rn and m. Ids that \
             never meet in one stage are reported as well: people read all files. What an open standard hands \
             out at run time is held against what is installed into the same place, by letter case alone.",
        fixes: Certainty::Advice,
        faulty: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.main: { type: velmora.clock.Main }
  clock-main: { type: velmora.clock.Other }
entries:
  station-clock: { needs: { clock: { service: clock.main }, other: { service: clock-main } } }
"#,
        corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.main: { type: velmora.clock.Main }
  clock.spare: { type: velmora.clock.Other }
entries:
  station-clock: { needs: { clock: { service: clock.main }, other: { service: clock.spare } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let is_first =
        |(index, service): &(ServiceIndex, &Service)| view.first_definition(service.id.name) == Some(*index);
    let services = view.wiring().services().filter(is_first).map(|(_, service)| service);
    let mut told: HashSet<Vec<&str>> = HashSet::default();
    let (chosen, installed): (Vec<&Service>, Vec<&Service>) =
        services.partition(|service| service.of_standard.installed.is_none());
    let place =
        |service: &Service| service.of_standard.installed.map_or(0, |place| hash(view.text(place).chars()));
    let id = |service: &Service| view.text(service.id.name);
    // Both ways of being alike are looked for among the few that are alike in any way.
    let alike = groups(&chosen, |service| at_all_alike(id(service)));
    let among = |fold: fn(&str) -> u64| -> Vec<Vec<&Service>> {
        alike.iter().flat_map(|group| groups(group, |service| fold(id(service)))).collect()
    };
    let kinds = [
        among(folded),
        among(looking_alike),
        groups(&installed, |service| hash(id(service).chars()).wrapping_add(place(service))),
    ];
    for kind in kinds {
        for mut group in kind {
            group.sort_unstable_by_key(|service| view.text(service.id.name));
            let ids: Vec<&str> = group.iter().map(|service| view.text(service.id.name)).collect();
            if !told.insert(ids.clone()) {
                continue;
            }
            let message = format!("{} ids are easily taken for one another: {}", ids.len(), ids.join(", "));
            let mut finding = Finding::new(&RULE.text, ids.join(" ~ "), message);
            for (service, id) in group.iter().zip(&ids) {
                finding = finding.at(service.source, service.id.span, format!("{id} is defined here"));
            }
            sink.report(finding.advice("give one of them a name that cannot be mistaken"));
        }
    }
}

/// Services whose ids fold to the same, several at a time, in the order of the first of them.
fn groups<'a>(services: &[&'a Service], fold: impl Fn(&Service) -> u64 + Sync) -> Vec<Vec<&'a Service>> {
    let folds = services.par_iter().enumerate().map(|(at, service)| (fold(service), at as u32));
    let mut folds: Vec<(u64, u32)> = folds.collect();
    folds.par_sort_unstable();
    let alike = folds.chunk_by(|one, other| one.0 == other.0).filter(|run| run.len() > 1);
    let mut groups: Vec<&[(u64, u32)]> = alike.collect();
    groups.sort_unstable_by_key(|run| run[0].1);
    groups.into_iter().map(|run| run.iter().map(|&(_, at)| services[at as usize]).collect()).collect()
}

/// A hash that ids share which share either of the two below: both ways of folding, one after the other.
fn at_all_alike(id: &str) -> u64 {
    // Nearly all ids are ASCII, and every id of a workspace is folded.
    if id.is_ascii() {
        at_all_alike_letters(id.bytes().map(|byte| byte.to_ascii_lowercase().into()))
    } else {
        at_all_alike_letters(id.chars().flat_map(char::to_lowercase))
    }
}

fn at_all_alike_letters(letters: impl Iterator<Item = char>) -> u64 {
    let mut letters = letters.peekable();
    hash_of(std::iter::from_fn(move || {
        Some(match letters.next()? {
            '-' | '_' => '.',
            '0' => 'o',
            '1' | 'i' => 'l',
            'r' if letters.peek() == Some(&'n') => {
                letters.next();
                'm'
            }
            letter => letter,
        })
    }))
}

/// A hash of the id without letter case, all separators alike.
fn folded(id: &str) -> u64 {
    hash(id.chars().map(|letter| if matches!(letter, '-' | '_') { '.' } else { letter }))
}

/// A hash of the id with letters that look alike taken as one.
fn looking_alike(id: &str) -> u64 {
    let mut letters = id.chars().peekable();
    hash(std::iter::from_fn(move || {
        Some(match letters.next()? {
            '0' | 'O' => 'o',
            '1' | 'I' => 'l',
            'r' if letters.peek() == Some(&'n') => {
                letters.next();
                'm'
            }
            letter => letter,
        })
    }))
}

fn hash(letters: impl Iterator<Item = char>) -> u64 {
    hash_of(letters.flat_map(char::to_lowercase))
}

fn hash_of(letters: impl Iterator<Item = char>) -> u64 {
    letters.fold(0xcbf2_9ce4_8422_2325, |hash, letter| {
        (hash ^ u64::from(letter)).wrapping_mul(0x0000_0100_0000_01b3)
    })
}

#[cfg(test)]
mod tests {
    use super::{at_all_alike, folded, looking_alike};

    #[test]
    fn whatever_is_alike_either_way_is_at_all_alike() {
        const LETTERS: [&str; 14] = ["r", "n", "R", "N", "m", "M", "0", "O", "o", "1", "l", "I", "-", "."];
        let mut ids: Vec<String> = LETTERS.iter().map(|letter| (*letter).to_owned()).collect();
        ids.extend(LETTERS.iter().flat_map(|one| LETTERS.map(|other| format!("{one}{other}"))));
        let mut pairs = 0;
        for (at, one) in ids.iter().enumerate() {
            for other in &ids[at + 1..] {
                if folded(one) == folded(other) || looking_alike(one) == looking_alike(other) {
                    pairs += 1;
                    assert_eq!(at_all_alike(one), at_all_alike(other), "{one} and {other}");
                }
            }
        }
        assert!(pairs > 400, "only {pairs} pairs are alike");
    }

    #[test]
    fn letters_beyond_ascii_fold_as_ascii_does() {
        // The Kelvin sign is a k in lower case.
        let kelvin = "f.\u{212a}rail";
        assert_eq!(at_all_alike(kelvin), at_all_alike("f.krail"));
        assert_eq!(folded(kelvin), folded("F-KRAIL"));
        assert_ne!(at_all_alike("f.žrail"), at_all_alike("f.zrail"));
    }
}
