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

/// What of a state others are held against: it can be written down, as it does not lean on the state.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Baseline {
    /// Its findings, in the order of its report.
    pub findings: Vec<Seen>,
    /// What could not be seen, without places.
    pub blind_spots: Vec<BlindSpot>,
    /// Its stages.
    pub stages: BTreeSet<String>,
}

/// A finding that was there.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Seen {
    /// By what it is known again.
    pub fingerprint: String,
    /// How severe it was.
    pub severity: Severity,
    /// The stages in which it held (`None`: where none is chosen); `None`: in all.
    pub holds: Option<BTreeSet<Option<String>>>,
}

impl Baseline {
    /// What was found in a wiring.
    pub fn new(report: &Report, wiring: &Wiring) -> Self {
        let seen = |finding: &Finding| Seen {
            fingerprint: fingerprint(finding, wiring),
            severity: finding.severity,
            holds: stages(finding, wiring),
        };
        let spot = |spot: &BlindSpot| BlindSpot { places: Vec::new(), ..spot.clone() };
        Self {
            findings: report.findings.iter().map(seen).collect(),
            blind_spots: report.blind_spots.iter().map(spot).collect(),
            stages: wiring.stages.iter().map(|&stage| wiring.text(stage).to_owned()).collect(),
        }
    }
}

/// The findings of a state, as others are held against them: each answers for one.
#[derive(Debug)]
pub struct Known {
    baseline: Baseline,
    /// Numbers of those that have not answered yet.
    left: HashMap<String, Vec<usize>>,
}

impl From<Baseline> for Known {
    fn from(baseline: Baseline) -> Self {
        let mut left: HashMap<String, Vec<usize>> = HashMap::default();
        // The first answers first.
        for (number, seen) in baseline.findings.iter().enumerate().rev() {
            left.entry(seen.fingerprint.clone()).or_default().push(number);
        }
        Self { baseline, left }
    }
}

impl Known {
    /// The findings of a report.
    pub fn new(report: &Report, wiring: &Wiring) -> Self {
        Baseline::new(report, wiring).into()
    }

    /// Whether a finding was not there, or is worse than it was; each that was there answers for one.
    pub fn is_new(&mut self, finding: &Finding, wiring: &Wiring) -> bool {
        let number = self.take(finding, wiring);
        number.is_none_or(|number| self.is_worse(&self.baseline.findings[number], finding, wiring))
    }

    fn take(&mut self, finding: &Finding, wiring: &Wiring) -> Option<usize> {
        self.left.get_mut(&fingerprint(finding, wiring))?.pop()
    }

    fn is_worse(&self, seen: &Seen, finding: &Finding, wiring: &Wiring) -> bool {
        let more = match (&seen.holds, stages(finding, wiring)) {
            // Everywhere is more than somewhere; a stage that was not there before makes nothing worse.
            (Some(_), None) => true,
            (Some(before), Some(now)) => now.iter().any(|stage| {
                let is_known = stage.as_ref().is_none_or(|stage| self.baseline.stages.contains(stage));
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
    let before = unseen(&known.baseline.blind_spots, &report.blind_spots).into_iter();
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
        let seen = &known.baseline.findings[seen];
        let change = FindingChange { number, was: Some(seen.severity) };
        if known.is_worse(seen, finding, wiring) {
            changes.worse.push(change);
        } else if finding.severity != seen.severity || stages(finding, wiring) != seen.holds {
            changes.better.push(change);
        } else {
            changes.same += 1;
        }
    }
    let left = known.left.into_values().flatten();
    let gone = |number| FindingChange { number, was: Some(known.baseline.findings[number].severity) };
    changes.gone = left.map(gone).collect();
    changes.gone.sort_by_key(|change| change.number);
    changes
}
