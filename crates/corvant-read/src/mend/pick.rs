//! Which fixes can be made together.

use super::{Told, Wanted, Why};
use corvant_core::audit::Report;
use corvant_core::finding::{Edit, Finding, Fix};
use corvant_core::source::Span;
use corvant_core::wiring::Wiring;
use std::collections::BTreeMap;

/// A fix that is to be made.
#[derive(Clone, Copy, Debug)]
pub(super) struct Pick<'a> {
    pub(super) finding: &'a Finding,
    pub(super) fix: &'a Fix,
}

impl Pick<'_> {
    pub(super) fn told(&self, wiring: &Wiring) -> Told {
        let Self { finding, fix } = self;
        let place = finding.places.first();
        let at = place.map_or((String::new(), 1), |place| {
            let source = &wiring.sources[place.source.index()];
            (source.path.clone(), source.position(place.span.start).line)
        });
        Told {
            rule: finding.rule,
            subject: finding.subject.clone(),
            title: fix.title.clone(),
            certainty: fix.certainty,
            file: at.0,
            line: at.1,
        }
    }
}

/// The first fix of each finding that is sure enough, as long as its edits are not where those of one before are; and
/// those that would edit files that are not to be.
pub(super) fn picks<'a>(
    wiring: &Wiring,
    report: &'a Report,
    refuse: &mut impl FnMut(&str) -> Option<String>,
    wanted: &Wanted<'_>,
    most: usize,
) -> (Vec<Pick<'a>>, Vec<(Pick<'a>, Why)>) {
    let is_wanted = |finding: &&Finding| {
        (wanted.rules.is_empty() || wanted.rules.contains(&finding.rule.name))
            && (wanted.subjects.is_empty() || wanted.subjects.contains(&finding.subject))
    };
    let is_sure = |fix: &&Fix| fix.certainty <= wanted.certainty && !fix.edits.is_empty();
    let mut places = Places { wiring, known: BTreeMap::new() };
    let (mut picks, mut refused) = (Vec::new(), Vec::new());
    for finding in report.findings.iter().filter(is_wanted) {
        let Some(fix) = finding.fixes.iter().find(is_sure) else { continue };
        let pick = Pick { finding, fix };
        let mut files = fix.edits.iter().map(|edit| wiring.path(edit.source));
        if let Some((file, why)) = files.find_map(|file| Some((file.to_owned(), refuse(file)?))) {
            refused.push((pick, Why::Refused { file, why }));
        } else if picks.len() < most && places.take(&fix.edits) {
            picks.push(pick);
        }
    }
    (picks, refused)
}

/// The places of edits so far by file, which may be several sources, and by where they begin.
struct Places<'w, 'a> {
    wiring: &'w Wiring,
    known: BTreeMap<&'w str, BTreeMap<Span, &'a Edit>>,
}

impl<'a> Places<'_, 'a> {
    /// Takes edits, if none of them is where another is. The same edit twice is one.
    fn take(&mut self, edits: &'a [Edit]) -> bool {
        let is_free = edits.iter().all(|edit| self.is_free(edit));
        if is_free {
            for edit in edits {
                self.known.entry(self.wiring.path(edit.source)).or_default().insert(edit.span, edit);
            }
        }
        is_free
    }

    fn is_free(&self, edit: &Edit) -> bool {
        let Some(known) = self.known.get(self.wiring.path(edit.source)) else { return true };
        // Those that are known do not overlap: the nearest on each side are enough.
        let before = known.range(..=edit.span).next_back();
        let behind = known.range(edit.span..).next();
        [before, behind].into_iter().flatten().all(|(span, other)| {
            are_apart(*span, edit.span)
                || are_apart(edit.span, *span)
                || other.span == edit.span && other.text == edit.text
        })
    }
}

/// Whether a place ends before another. Where something is put in at the end of what goes, nobody knows which comes first.
fn are_apart(one: Span, other: Span) -> bool {
    let something_goes = one.start < one.end && other.start < other.end;
    one.end < other.start || one.end == other.start && something_goes
}
