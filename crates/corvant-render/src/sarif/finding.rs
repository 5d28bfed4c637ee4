//! Findings as SARIF's results.

use super::Message;
use super::place::{ArtifactLocation, Location, LogicalLocation, Region};
use super::rule::level;
use crate::text::words;
use corvant_core::answers::{Kind, known_names};
use corvant_core::finding::{Certainty, Finding, Fix};
use corvant_core::rules::TEXTS;
use corvant_core::wiring::Wiring;
use serde::Serialize;
use std::collections::{HashMap, HashSet};

/// What is known of rules and names before the first finding is written.
pub(super) struct Subjects<'a> {
    kinds: HashMap<&'a str, Kind>,
    rules: HashMap<&'static str, usize>,
}

impl<'a> Subjects<'a> {
    pub(super) fn new(wiring: &'a Wiring) -> Self {
        let mut kinds = HashMap::new();
        for (kind, name) in known_names(wiring) {
            kinds.entry(wiring.text(name)).or_insert(kind);
        }
        let rules = TEXTS.iter().enumerate().map(|(number, rule)| (rule.name, number)).collect();
        Self { kinds, rules }
    }
}

/// A finding.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct FindingResult<'a> {
    rule_id: &'static str,
    rule_index: usize,
    level: &'static str,
    message: Message<'a>,
    locations: Vec<Location<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    related_locations: Vec<Location<'a>>,
    partial_fingerprints: Fingerprints,
    /// Of a log that is held against an earlier state.
    #[serde(skip_serializing_if = "Option::is_none")]
    baseline_state: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    suppressions: Option<[Suppression<'a>; 1]>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    fixes: Vec<FixChange<'a>>,
    properties: Properties<'a>,
}

#[derive(Serialize)]
struct Fingerprints {
    /// Over rule and subject: it stays when lines move.
    #[serde(rename = "ruleAndSubject/v1")]
    rule_and_subject: String,
}

/// That somebody accepted it.
#[derive(Serialize)]
struct Suppression<'a> {
    kind: &'static str,
    status: &'static str,
    justification: &'a str,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Properties<'a> {
    subject: &'a str,
    /// The stages in which it holds; absent: all.
    #[serde(skip_serializing_if = "Option::is_none")]
    stages: Option<Vec<&'a str>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    holds_with_no_stage_chosen: Option<bool>,
    /// When it fails.
    #[serde(skip_serializing_if = "Option::is_none")]
    fails: Option<String>,
    fails_at_start_up: bool,
    affected_services: u32,
    affected_entries: u32,
    /// What can be done about it, likeliest first.
    remedies: Vec<&'a str>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct FixChange<'a> {
    description: Message<'a>,
    artifact_changes: Vec<ArtifactChange<'a>>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct ArtifactChange<'a> {
    artifact_location: ArtifactLocation,
    replacements: Vec<Replacement<'a>>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Replacement<'a> {
    deleted_region: Region,
    #[serde(skip_serializing_if = "Option::is_none")]
    inserted_content: Option<Message<'a>>,
}

impl<'a> FindingResult<'a> {
    /// A finding, and the reason for which it is accepted, if it is.
    pub(super) fn new(
        wiring: &'a Wiring,
        subjects: &Subjects<'a>,
        finding: &'a Finding,
        accepted: Option<&'a str>,
        baseline_state: Option<&'static str>,
    ) -> Self {
        let mut places = finding.places.iter();
        let first = places.next();
        let mut location = first.map(|place| Location::new(wiring, place).in_role(&place.role));
        if let Some(location) = &mut location {
            location.logical.extend(logical_locations(wiring, subjects, finding));
        }
        let related = places.enumerate();
        let related =
            related.map(|(number, place)| Location::new(wiring, place).in_role(&place.role).numbered(number));
        let file = first.map_or("", |place| wiring.path(place.source));
        let certain = finding.fixes.iter().filter(|fix| fix.certainty == Certainty::Certain);
        Self {
            rule_id: finding.rule.name,
            rule_index: subjects.rules[finding.rule.name],
            level: level(finding.severity),
            message: Message::new(&finding.message),
            locations: location.into_iter().collect(),
            related_locations: related.collect(),
            partial_fingerprints: Fingerprints { rule_and_subject: finding.fingerprint(file) },
            baseline_state,
            suppressions: accepted
                .map(|justification| [Suppression { kind: "external", status: "accepted", justification }]),
            fixes: certain.map(|fix| FixChange::new(wiring, fix)).collect(),
            properties: Properties::new(wiring, finding),
        }
    }
}

/// What a finding is about, and the module that it is in.
fn logical_locations<'a>(
    wiring: &'a Wiring,
    subjects: &Subjects<'_>,
    finding: &'a Finding,
) -> Vec<LogicalLocation<'a>> {
    let named = finding.subject.split(" > ");
    let mut about: Vec<(&str, &'static str)> =
        named.filter_map(|name| Some((name, subjects.kinds.get(name)?.word()))).collect();
    let module = words::module_of(wiring, finding);
    about.extend(module.map(|module| (module, "module")));
    let mut seen = HashSet::new();
    about.retain(|one| seen.insert(*one));
    about.into_iter().map(|(name, kind)| LogicalLocation::new(name, kind)).collect()
}

impl<'a> Properties<'a> {
    fn new(wiring: &'a Wiring, finding: &'a Finding) -> Self {
        let holds = finding.holds.as_ref();
        Self {
            subject: &finding.subject,
            stages: holds.map(|holds| holds.stages.iter().map(|&stage| wiring.text(stage)).collect()),
            holds_with_no_stage_chosen: holds.map(|holds| holds.none_chosen),
            fails: words::fails(wiring, &finding.reach),
            fails_at_start_up: !finding.reach.start_up.is_empty(),
            affected_services: finding.reach.services,
            affected_entries: finding.reach.entries,
            remedies: finding.fixes.iter().map(|fix| fix.title.as_str()).collect(),
        }
    }
}

impl<'a> FixChange<'a> {
    fn new(wiring: &'a Wiring, fix: &'a Fix) -> Self {
        let mut changes: Vec<(&str, ArtifactChange<'a>)> = Vec::new();
        for edit in &fix.edits {
            let source = &wiring.sources[edit.source.index()];
            let replacement = Replacement {
                deleted_region: Region::new(source, edit.span),
                inserted_content: (!edit.text.is_empty()).then(|| Message::new(&edit.text)),
            };
            match changes.iter_mut().find(|(path, _)| *path == source.path) {
                Some((_, change)) => change.replacements.push(replacement),
                None => changes.push((
                    &source.path,
                    ArtifactChange {
                        artifact_location: ArtifactLocation::new(&source.path),
                        replacements: vec![replacement],
                    },
                )),
            }
        }
        let artifact_changes = changes.into_iter().map(|(_, change)| change).collect();
        Self { description: Message::new(&fix.title), artifact_changes }
    }
}
