//! Findings, with their places and what can be done.

use super::strings::Strings;
use crate::text::excerpt::Parts;
use crate::text::words::{fails, module_of};
use corvant_core::audit::Report;
use corvant_core::finding::{Certainty, Finding, Holds};
use corvant_core::rules::TEXTS;
use corvant_core::source::Place;
use corvant_core::wiring::Wiring;
use foldhash::HashMap;
use serde::Serialize;

/// Letters of a source line that are shown.
const WIDEST: usize = 180;

/// Findings, the worst first; places and fixes of a finding end where those of the next begin.
#[derive(Default, Serialize)]
pub(super) struct Findings {
    rule: Vec<u32>,
    severity: Vec<u8>,
    subject: Vec<u32>,
    message: Vec<u32>,
    module: Vec<u32>,
    /// The number of a set of stages; 0: everywhere.
    holds: Vec<u32>,
    /// Sets of stages by number; -1: with none chosen.
    sets: Vec<Vec<isize>>,
    starts: Vec<u8>,
    fails: Vec<u32>,
    services: Vec<u32>,
    entries: Vec<u32>,
    place: Vec<u32>,
    fix: Vec<u32>,
    fixes: Fixes,
}

#[derive(Default, Serialize)]
struct Fixes {
    title: Vec<u32>,
    certain: Vec<u8>,
}

/// Places with the line that they are on.
#[derive(Default, Serialize)]
pub(super) struct Places {
    file: Vec<u32>,
    line: Vec<u32>,
    column: Vec<u32>,
    role: Vec<u32>,
    before: Vec<u32>,
    marked: Vec<u32>,
    after: Vec<u32>,
}

impl Places {
    fn add(&mut self, wiring: &Wiring, place: &Place, strings: &mut Strings) {
        let source = &wiring.sources[place.source.index()];
        let at = source.position(place.span.start);
        let parts = Parts::new(source, place, at.line, WIDEST);
        self.file.push(place.source.0);
        self.line.push(at.line);
        self.column.push(at.column);
        self.role.push(strings.number(&place.role));
        self.before.push(strings.number(&parts.before));
        self.marked.push(strings.number(&parts.marked));
        self.after.push(strings.number(&parts.after));
    }
}

impl Findings {
    pub(super) fn new(report: &Report, wiring: &Wiring, places: &mut Places, strings: &mut Strings) -> Self {
        let rules: HashMap<&str, u32> =
            TEXTS.iter().zip(0..).map(|(rule, number)| (rule.name, number)).collect();
        let mut findings = Self { sets: vec![Vec::new()], ..Self::default() };
        for finding in &report.findings {
            findings.rule.push(rules[finding.rule.name]);
            findings.add(wiring, finding, places, strings);
        }
        findings.place.push(places.file.len() as u32);
        findings.fix.push(findings.fixes.title.len() as u32);
        findings
    }

    fn add(&mut self, wiring: &Wiring, finding: &Finding, places: &mut Places, strings: &mut Strings) {
        let module = module_of(wiring, finding);
        let fails = fails(wiring, &finding.reach).unwrap_or_default();
        let set = finding.holds.as_ref().map_or(0, |holds| self.set(wiring, holds));
        self.holds.push(set);
        self.severity.push(finding.severity as u8);
        self.subject.push(strings.number(&finding.subject));
        self.message.push(strings.number(&finding.message));
        self.module.push(strings.number(module.unwrap_or_default()));
        self.starts.push((!finding.reach.start_up.is_empty()).into());
        self.fails.push(strings.number(&fails));
        self.services.push(finding.reach.services);
        self.entries.push(finding.reach.entries);
        self.place.push(places.file.len() as u32);
        self.fix.push(self.fixes.title.len() as u32);
        for place in &finding.places {
            places.add(wiring, place, strings);
        }
        for fix in &finding.fixes {
            self.fixes.title.push(strings.number(&fix.title));
            self.fixes.certain.push((fix.certainty == Certainty::Certain).into());
        }
    }

    /// The number of a set of stages.
    fn set(&mut self, wiring: &Wiring, holds: &Holds) -> u32 {
        let place = |stage| wiring.stages.iter().position(|known| known == stage);
        let stages = holds.stages.iter().filter_map(place).map(usize::cast_signed);
        let set: Vec<isize> = stages.chain(holds.none_chosen.then_some(-1)).collect();
        let known = self.sets.iter().skip(1).position(|known| *known == set).map(|at| at + 1);
        known.unwrap_or_else(|| {
            self.sets.push(set);
            self.sets.len() - 1
        }) as u32
    }
}
