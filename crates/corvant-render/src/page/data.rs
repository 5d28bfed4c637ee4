//! What a page shows, in columns: a row is what stands at one position of all columns of a table.

use super::Circumstances;
use super::changes::Changes;
use super::cycles::Cycles;
use super::findings::{Findings, Places};
use super::modules::Modules;
use super::strings::Strings;
use super::things::Things;
use crate::text::words::coverage;
use corvant_core::answers::View;
use corvant_core::answers::show::Section;
use corvant_core::answers::{Kind, atlas::Atlas};
use corvant_core::audit::{Report, Summary};
use corvant_core::finding::Severity;
use corvant_core::rules::TEXTS;
use serde::Serialize;

/// All that a page shows.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct Data {
    corvant: &'static str,
    root: u32,
    is_failing: bool,
    /// The stage that is shown; absent: with none chosen.
    stage: Option<u32>,
    summary: Vec<(&'static str, usize)>,
    accepted: usize,
    readers: Vec<u32>,
    blind_spots: Vec<(u32, u32)>,
    severities: [&'static str; Severity::ALL.len()],
    kinds: [&'static str; Kind::ALL.len()],
    sections: Vec<&'static str>,
    stages: Vec<u32>,
    rules: Vec<Rule>,
    things: Things,
    findings: Findings,
    accepted_findings: Vec<(u32, u32, u32)>,
    changes: Option<Changes>,
    places: Places,
    modules: Modules,
    cycles: Cycles,
    /// Files by number, as numbers of texts.
    files: Vec<u32>,
    /// The last: everything else is numbers of these.
    strings: Vec<String>,
}

#[derive(Serialize)]
struct Rule {
    name: &'static str,
    family: String,
    severity: u8,
    summary: &'static str,
    why: &'static str,
    limits: &'static str,
}

impl Data {
    /// Gathers it from a report and the wiring that it is of.
    pub(super) fn new(report: &Report, view: &View<'_>, of: Circumstances<'_>) -> Self {
        let wiring = view.wiring;
        let mut strings = Strings::new();
        let atlas = Atlas::new(view);
        let mut places = Places::default();
        let things = Things::new(&atlas, wiring, &mut strings);
        let findings = Findings::new(report, wiring, &mut places, &mut strings);
        let accepted_findings = report.accepted.iter().map(|accepted| {
            let rule = accepted.finding.rule.name;
            let text = [rule, &accepted.finding.subject, accepted.reason(wiring)];
            let [rule, subject, reason] = text.map(|text| strings.number(text));
            (rule, subject, reason)
        });
        let accepted_findings = accepted_findings.collect();
        Self {
            corvant: env!("CARGO_PKG_VERSION"),
            root: strings.number(of.root),
            is_failing: of.is_failing,
            stage: view.stage().map(|stage| strings.number(wiring.text(stage))),
            summary: summary(&report.summary),
            accepted: report.accepted.len(),
            readers: report.readers.iter().map(|one| strings.number(&coverage(wiring, one))).collect(),
            blind_spots: report
                .blind_spots
                .iter()
                .map(|spot| (strings.number(&spot.subject), strings.number(&spot.message)))
                .collect(),
            severities: Severity::ALL.map(Severity::word),
            kinds: Kind::ALL.map(Kind::word),
            sections: Section::ALL.into_iter().map(Section::word).collect(),
            stages: wiring.stages.iter().map(|&stage| strings.number(wiring.text(stage))).collect(),
            rules: rules(),
            things,
            findings,
            accepted_findings,
            changes: of.compared.map(|compared| Changes::new(&compared, &mut strings)),
            places,
            modules: Modules::new(view, report, &mut strings),
            cycles: Cycles::new(view, report, &mut strings),
            files: wiring.paths().map(|path| strings.number(path)).collect(),
            strings: strings.into_all(),
        }
    }
}

fn summary(summary: &Summary) -> Vec<(&'static str, usize)> {
    let &Summary { modules, manifests, services, needs, entries, .. } = summary;
    vec![
        ("services", services),
        ("needs", needs),
        ("entries", entries),
        ("modules", modules),
        ("manifests", manifests),
    ]
}

fn rules() -> Vec<Rule> {
    let rule = |rule: &&'static corvant_core::finding::RuleText| Rule {
        name: rule.name,
        family: rule.family.word().replace('_', "-"),
        severity: rule.severity as u8,
        summary: rule.summary,
        why: rule.why,
        limits: rule.limits,
    };
    TEXTS.iter().map(rule).collect()
}
