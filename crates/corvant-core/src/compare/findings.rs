//! Findings that are new, gone, or another than before.

use super::unseen::{Which, unseen};
use crate::audit::{Report, Since};
use crate::finding::{BlindSpot, Finding, Holds, Severity};
use crate::wiring::Wiring;
use foldhash::HashMap;
use std::collections::BTreeSet;

/// What became of the findings.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct FindingChanges {
    /// Those that were not there before, by number in the new report.
    pub new: Vec<FindingChange>,
    /// Those that were there, and are worse: more severe, or in more stages.
    pub worse: Vec<FindingChange>,
    /// Those that were there, and are less severe or in fewer stages.
    pub better: Vec<FindingChange>,
    /// Those that are gone, by number in the old report.
    pub gone: Vec<FindingChange>,
    /// How many are as they were.
    pub same: usize,
}

/// A finding, by its number in its report.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct FindingChange {
    /// The number.
    pub number: usize,
    /// How severe it was, if it was there.
    pub was: Option<Severity>,
}

impl FindingChanges {
    /// Whether all findings are as they were.
    pub fn is_empty(&self) -> bool {
        self.new.is_empty() && self.worse.is_empty() && self.better.is_empty() && self.gone.is_empty()
    }
}

/// The findings of a state, as others are held against them.
#[derive(Debug)]
pub struct Known {
    by_fingerprint: HashMap<String, Vec<Seen>>,
    blind_spots: Vec<BlindSpot>,
    stages: BTreeSet<String>,
}

/// A finding that was there.
#[derive(Debug)]
struct Seen {
    number: usize,
    severity: Severity,
    holds: Option<BTreeSet<Option<String>>>,
}

impl Known {
    /// The findings of a report.
    pub fn new(report: &Report, wiring: &Wiring) -> Self {
        let mut by_fingerprint: HashMap<String, Vec<Seen>> = HashMap::default();
        for (number, finding) in report.findings.iter().enumerate() {
            let seen = Seen { number, severity: finding.severity, holds: stages(finding, wiring) };
            by_fingerprint.entry(fingerprint(finding, wiring)).or_default().push(seen);
        }
        let stages = wiring.stages.iter().map(|&stage| wiring.text(stage).to_owned()).collect();
        Self { by_fingerprint, blind_spots: report.blind_spots.clone(), stages }
    }

    /// Whether a finding was not there, or is worse than it was; each that was there answers for one.
    pub fn is_new(&mut self, finding: &Finding, wiring: &Wiring) -> bool {
        self.take(finding, wiring).is_none_or(|seen| self.is_worse(&seen, finding, wiring))
    }

    fn take(&mut self, finding: &Finding, wiring: &Wiring) -> Option<Seen> {
        let seen = self.by_fingerprint.get_mut(&fingerprint(finding, wiring))?;
        (!seen.is_empty()).then(|| seen.remove(0))
    }

    fn is_worse(&self, seen: &Seen, finding: &Finding, wiring: &Wiring) -> bool {
        let more = match (&seen.holds, stages(finding, wiring)) {
            // Everywhere is more than somewhere; a stage that was not there before makes nothing worse.
            (Some(_), None) => true,
            (Some(before), Some(now)) => now.iter().any(|stage| {
                let is_known = stage.as_ref().is_none_or(|stage| self.stages.contains(stage));
                is_known && !before.contains(stage)
            }),
            (None, _) => false,
        };
        finding.severity < seen.severity || more
    }
}

/// Keeps the findings of a report that were not there at a revision, or are worse than they were. What could not be seen
/// at the revision, and can be now, becomes a blind spot of the report.
pub fn keep_new(report: &mut Report, wiring: &Wiring, revision: String, mut known: Known) {
    let all = report.findings.len();
    report.findings.retain(|finding| known.is_new(finding, wiring));
    report.summary.count_all(&report.findings);
    let before = unseen(&known.blind_spots, &report.blind_spots).into_iter();
    let before = before
        .filter(|one| one.state == Which::Old)
        .map(|one| BlindSpot { subject: format!("{} at {revision}", one.spot.subject), ..one.spot });
    report.blind_spots.extend(before);
    report.since = Some(Since { revision, there_before: all - report.findings.len() });
}

/// The stages in which a finding holds (`None`: where none is chosen); `None`: in all.
fn stages(finding: &Finding, wiring: &Wiring) -> Option<BTreeSet<Option<String>>> {
    let Holds { stages, none_chosen } = finding.holds.as_ref()?;
    let named = stages.iter().map(|&stage| Some(wiring.text(stage).to_owned()));
    Some(named.chain(none_chosen.then_some(None)).collect())
}

fn fingerprint(finding: &Finding, wiring: &Wiring) -> String {
    finding.fingerprint(finding.places.first().map_or("", |place| wiring.path(place.source)))
}

/// Holds a report against what was known before.
pub(super) fn changes(mut known: Known, report: &Report, wiring: &Wiring) -> FindingChanges {
    let mut changes = FindingChanges::default();
    for (number, finding) in report.findings.iter().enumerate() {
        let Some(seen) = known.take(finding, wiring) else {
            changes.new.push(FindingChange { number, was: None });
            continue;
        };
        let change = FindingChange { number, was: Some(seen.severity) };
        if known.is_worse(&seen, finding, wiring) {
            changes.worse.push(change);
        } else if finding.severity != seen.severity || stages(finding, wiring) != seen.holds {
            changes.better.push(change);
        } else {
            changes.same += 1;
        }
    }
    let left = known.by_fingerprint.into_values().flatten();
    changes.gone = left.map(|seen| FindingChange { number: seen.number, was: Some(seen.severity) }).collect();
    changes.gone.sort_by_key(|change| change.number);
    changes
}
