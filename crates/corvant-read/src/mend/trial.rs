//! Trying fixes: what an audit of the edited texts says of them.

use super::pick::Pick;
use super::{Texts, Why};
use crate::edit::{self, EditedFile};
use corvant_core::audit::Report;
use corvant_core::compare::Known;
use corvant_core::finding::{Finding, Severity};
use corvant_core::source::Source;
use corvant_core::wiring::Wiring;
use foldhash::HashMap;
use std::collections::BTreeMap;

/// Audits that making fixes costs at most: where nearly each fix brings something, the rest is not tried.
pub(super) const AUDITS: usize = 50;

/// A round: a wiring with what an audit finds in it, in which fixes are tried.
pub(super) struct Trial<'a, 't, L> {
    look: &'a L,
    wiring: &'a Wiring,
    report: &'a Report,
    /// What was edited before.
    texts: &'t BTreeMap<String, EditedFile>,
}

/// Fixes that do what they should, together.
pub(super) struct Taken<'a> {
    pub(super) picks: Vec<Pick<'a>>,
    /// By path the texts before and after them.
    pub(super) edited: BTreeMap<String, EditedFile>,
    /// What an audit finds then.
    pub(super) after: (Wiring, Report),
}

impl<'a, 't, E: ToString, L: Fn(&Texts) -> Result<(Wiring, Report), E>> Trial<'a, 't, L> {
    pub(super) fn new(
        look: &'a L,
        wiring: &'a Wiring,
        report: &'a Report,
        texts: &'t BTreeMap<String, EditedFile>,
    ) -> Self {
        Self { look, wiring, report, texts }
    }

    /// The most of some fixes that do what they should together, and why each of the others does not. What fails
    /// together is tried by halves.
    /// Of so many audits those that it costs are taken away.
    pub(super) fn run<'p>(
        &self,
        picks: &'p [Pick<'a>],
        audits: &mut usize,
    ) -> (Option<Taken<'a>>, Vec<(&'p Pick<'a>, Why)>) {
        let mut taken: Option<Taken<'a>> = None;
        let mut left_out = Vec::new();
        let mut waiting = vec![picks];
        while let Some(some) = waiting.pop() {
            if some.is_empty() {
                continue;
            }
            if *audits == 0 {
                left_out.extend(some.iter().map(|pick| (pick, Why::NotTried)));
                continue;
            }
            *audits -= 1;
            let known = taken.as_ref().map_or(&[][..], |taken| &taken.picks);
            match self.try_all(known.iter().chain(some).copied().collect()) {
                Ok(all) => taken = Some(all),
                Err(why) if some.len() == 1 => left_out.push((&some[0], why)),
                Err(_) => {
                    let (first, second) = some.split_at(some.len() / 2);
                    waiting.extend([second, first]);
                }
            }
        }
        (taken, left_out)
    }

    /// Makes fixes together; otherwise why they do not do.
    fn try_all(&self, picks: Vec<Pick<'a>>) -> Result<Taken<'a>, Why> {
        let edited = edit::edited_files(self.wiring, picks.iter().flat_map(|pick| &pick.fix.edits));
        let source = |(path, file): (&String, &EditedFile)| {
            (path.clone(), Source::new(path.clone(), file.after.clone()))
        };
        let texts: Texts = self.texts.iter().chain(&edited).map(source).collect();
        let after = (self.look)(&texts).map_err(|error| Why::Unreadable(error.to_string()))?;
        self.judge(&picks, &after)?;
        Ok(Taken { picks, edited, after })
    }

    fn judge(&self, picks: &[Pick<'_>], (wiring, report): &(Wiring, Report)) -> Result<(), Why> {
        let mut known = Known::new(self.report, self.wiring);
        if let Some(new) = report.findings.iter().find(|finding| known.is_new(finding, wiring)) {
            return Err(Why::Brings { rule: new.rule.name, subject: new.subject.clone() });
        }
        // Several findings may be alike: as many are gone as there are fixes for them.
        let before = counted(self.report.findings.iter().map(|finding| mark(finding, self.wiring)));
        let after = counted(report.findings.iter().map(|finding| mark(finding, wiring)));
        let count = |of: &HashMap<Mark, i64>, mark: &Mark| of.get(mark).copied().unwrap_or_default();
        let fixed = counted(picks.iter().map(|pick| mark(pick.finding, self.wiring)));
        let is_left = |(mark, fixed): (&Mark, &i64)| count(&after, mark) > count(&before, mark) - fixed;
        if fixed.iter().any(is_left) { Err(Why::StillThere) } else { Ok(()) }
    }
}

fn counted(marks: impl Iterator<Item = Mark>) -> HashMap<Mark, i64> {
    let mut counts: HashMap<Mark, i64> = HashMap::default();
    for mark in marks {
        *counts.entry(mark).or_default() += 1;
    }
    counts
}

/// What a finding is known by. One that is less severe is another: that is what can be done about a cycle.
type Mark = (String, Severity);

fn mark(finding: &Finding, wiring: &Wiring) -> Mark {
    let file = finding.places.first().map_or("", |place| wiring.path(place.source));
    (finding.fingerprint(file), finding.severity)
}
