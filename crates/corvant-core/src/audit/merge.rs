//! The findings of all stages, merged: one finding for one fault, with the stages in which it holds.

use crate::finding::Finding;
use crate::name::Name;
use crate::rules::{RULES, Scope};
use foldhash::HashMap;
use std::cmp::Reverse;

#[derive(Default)]
pub(super) struct Merged {
    findings: Vec<(Finding, Vec<Option<Name>>)>,
    by_subject: HashMap<(&'static str, String), usize>,
}

impl Merged {
    /// Adds the findings of one stage.
    pub(super) fn add(&mut self, findings: Vec<Finding>, view: Option<Name>) {
        for finding in findings {
            if finding.rule.scope != Scope::Stage {
                self.findings.push((finding, Vec::new()));
                continue;
            }
            let known = self.by_subject.entry((finding.rule.name, finding.subject.clone()));
            match known {
                std::collections::hash_map::Entry::Occupied(known) => {
                    self.findings[*known.get()].1.push(view);
                }
                std::collections::hash_map::Entry::Vacant(new) => {
                    new.insert(self.findings.len());
                    self.findings.push((finding, vec![view]));
                }
            }
        }
    }

    /// All findings, each with the stages in which it holds if those are not all.
    pub(super) fn into_findings(self, views: usize) -> Vec<Finding> {
        let stages_of = |(mut finding, stages): (Finding, Vec<Option<Name>>)| {
            if finding.rule.scope == Scope::Stage && stages.len() < views {
                finding.stages = Some(stages.into_iter().flatten().collect());
            }
            finding
        };
        self.findings.into_iter().map(stages_of).collect()
    }
}

/// Errors first; what strikes at start-up before what waits; the widest reach first; then by rule, subject
/// and place.
pub(super) fn sort(findings: &mut [Finding]) {
    let order: HashMap<&str, usize> =
        RULES.iter().enumerate().map(|(number, rule)| (rule.name, number)).collect();
    let key = |finding: &Finding| {
        let reach = &finding.reach;
        let starts = reach.start_up.is_empty();
        (finding.severity, starts, Reverse((reach.entries, reach.services)), order[finding.rule.name])
    };
    let place = |finding: &Finding| finding.places.first().map(|place| (place.source, place.span));
    findings.sort_by(|one, other| {
        key(one)
            .cmp(&key(other))
            .then_with(|| one.subject.cmp(&other.subject))
            .then_with(|| place(one).cmp(&place(other)))
    });
}
