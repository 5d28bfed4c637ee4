//! The findings of all stages, merged: one finding for one fault, with the stages in which it holds.

use crate::finding::{Finding, Holds, Scope};
use crate::name::Name;
use crate::rules::TEXTS;
use foldhash::{HashMap, HashSet};
use std::cmp::Reverse;
use std::collections::hash_map::Entry;

/// Findings of several stages, each once.
pub(super) struct Merged {
    findings: Vec<(Finding, Vec<Option<Name>>)>,
    /// How many of them hold in the first stage that was looked at (mostly: with none chosen).
    first: usize,
    by_key: HashMap<(&'static str, String), usize>,
}

impl Merged {
    /// Begins with all findings of one stage, or of none.
    pub(super) fn new(findings: Vec<Finding>, stage: Option<Name>) -> Self {
        let mut merged = Self { findings: Vec::new(), first: 0, by_key: HashMap::default() };
        for finding in findings {
            merged.hold(finding, stage);
        }
        merged.first = merged.findings.len();
        merged
    }

    /// Adds all findings of another stage.
    pub(super) fn add(&mut self, stage: Name, findings: Vec<Finding>) {
        for finding in findings {
            self.hold(finding, Some(stage));
        }
    }

    /// Adds the findings of a stage by what differs from the first: `before` and `after` are what a part of
    /// the first and the same part of the stage show, and all that rules show that look at whole stages.
    pub(super) fn add_changes(&mut self, stage: Name, before: &[Finding], after: Vec<Finding>) {
        let known: HashSet<_> = before.iter().map(Finding::key).collect();
        let shown: HashSet<_> = after.iter().map(Finding::key).collect();
        for (finding, stages) in &mut self.findings[..self.first] {
            let is_whole = finding.rule.scope == Scope::WholeStage;
            let has_gone = (is_whole || known.contains(&finding.key())) && !shown.contains(&finding.key());
            if finding.rule.is_staged() && !has_gone {
                stages.push(Some(stage));
            }
        }
        for finding in after {
            if !known.contains(&finding.key()) || self.is_worse(&finding) {
                self.hold(finding, Some(stage));
            }
        }
    }

    /// Adds a stage in which nothing differs from the first.
    pub(super) fn add_unchanged(&mut self, stage: Name) {
        for (finding, stages) in &mut self.findings[..self.first] {
            if finding.rule.is_staged() {
                stages.push(Some(stage));
            }
        }
    }

    /// Whether a finding is among those of the first stage, and no worse than there.
    pub(super) fn holds_always(&self, finding: &Finding) -> bool {
        self.known(finding).is_some_and(|at| at < self.first) && !self.is_worse(finding)
    }

    fn known(&self, finding: &Finding) -> Option<usize> {
        self.by_key.get(&(finding.rule.name, finding.subject.clone())).copied()
    }

    /// Whether a finding is known from another stage, where it is not so bad.
    pub(super) fn is_worse(&self, finding: &Finding) -> bool {
        self.known(finding).is_some_and(|at| finding.severity < self.findings[at].0.severity)
    }

    fn hold(&mut self, finding: Finding, stage: Option<Name>) {
        if !finding.rule.is_staged() {
            self.findings.push((finding, Vec::new()));
            return;
        }
        match self.by_key.entry((finding.rule.name, finding.subject.clone())) {
            Entry::Occupied(known) => {
                let (first, stages) = &mut self.findings[*known.get()];
                if stages.last() != Some(&stage) {
                    stages.push(stage);
                }
                // What a person has to know is the worst of it.
                if finding.severity < first.severity {
                    *first = finding;
                }
            }
            Entry::Vacant(new) => {
                new.insert(self.findings.len());
                self.findings.push((finding, vec![stage]));
            }
        }
    }

    /// All findings, each with where it holds if that is not everywhere: in so many `views`. Where some stage is
    /// always chosen, what holds with none chosen alone is no finding.
    pub(super) fn into_findings(self, views: usize, is_always_staged: bool) -> Vec<Finding> {
        let findings = self.findings.into_iter().filter_map(|(mut finding, mut stages)| {
            if !finding.rule.is_staged() {
                return Some(finding);
            }
            if is_always_staged {
                stages.retain(Option::is_some);
            }
            if stages.len() < views {
                finding.holds = Some(holds(stages)?);
            }
            Some(finding)
        });
        findings.collect()
    }
}

/// Where a finding holds that does not hold everywhere; `None`: nowhere.
fn holds(stages: Vec<Option<Name>>) -> Option<Holds> {
    let none_chosen = stages.first() == Some(&None);
    let stages: Vec<Name> = stages.into_iter().flatten().collect();
    (none_chosen || !stages.is_empty()).then_some(Holds { stages, none_chosen })
}

/// Errors first; what fails at start-up before what fails later; the widest reach first; then by rule, subject
/// and place. `of` says which finding an item is, or holds.
pub(super) fn sort<T>(items: &mut [T], of: impl Fn(&T) -> &Finding) {
    let order: HashMap<&str, usize> =
        TEXTS.iter().enumerate().map(|(number, rule)| (rule.name, number)).collect();
    let key = |finding: &Finding| {
        let reach = &finding.reach;
        let starts = reach.start_up.is_empty();
        (finding.severity, starts, Reverse((reach.entries, reach.services)), order[finding.rule.name])
    };
    let place = |finding: &Finding| finding.places.first().map(|place| (place.source, place.span));
    items.sort_by(|one, other| {
        let (one, other) = (of(one), of(other));
        key(one)
            .cmp(&key(other))
            .then_with(|| one.subject.cmp(&other.subject))
            .then_with(|| place(one).cmp(&place(other)))
    });
}
