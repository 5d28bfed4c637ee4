//! What is another than before, for a page that is of a comparison.

use super::strings::Strings;
use crate::changes::{Compared, NO_EDIT, words};
use serde::Serialize;

/// Changes, in the words of the text.
#[derive(Serialize)]
pub(super) struct Changes {
    old: u32,
    new: u32,
    /// How many findings are new, gone and as they were.
    findings: u32,
    /// Findings that are new or worse, by number.
    fresh: Vec<usize>,
    /// Rule and subject of those that are gone.
    gone: Vec<(u32, u32)>,
    effects: Vec<u32>,
    definitions: Vec<Definition>,
    unseen: Vec<u32>,
    /// The lines of the patch that would make what is supposed, and what has no edit.
    edits: Vec<u32>,
    without: Vec<u32>,
}

#[derive(Serialize)]
struct Definition {
    turn: &'static str,
    module: u32,
    text: u32,
    places: u32,
    /// What it says otherwise, and where.
    parts: Vec<(u32, u32)>,
}

impl Changes {
    pub(super) fn new(compared: &Compared<'_>, strings: &mut Strings) -> Self {
        let comparison = compared.comparison;
        let fresh = comparison.findings.new.iter().chain(&comparison.findings.worse);
        let gone = comparison.findings.gone.iter().map(|change| {
            let finding = &compared.old.report.findings[change.number];
            (strings.number(finding.rule.name), strings.number(&finding.subject))
        });
        let gone = gone.collect();
        let effects = comparison.effects.iter();
        let effects =
            effects.map(|effect| strings.number(&words::effect(effect, compared.with_values))).collect();
        let definition = |change| Definition::new(change, compared, strings);
        let definitions = comparison.definitions.iter().map(definition).collect();
        let unseen = comparison.unseen.iter();
        let unseen = unseen.map(|unseen| strings.number(&words::unseen(unseen, compared))).collect();
        let edits = compared.supposed.patch.lines().map(|line| strings.number(line)).collect();
        let without = compared.supposed.without_edits();
        let without = without.map(|asked| strings.number(&format!("{asked}: {NO_EDIT}"))).collect();
        Self {
            old: strings.number(compared.old.name),
            new: strings.number(compared.new.name),
            findings: strings.number(&words::findings(compared)),
            fresh: fresh.map(|change| change.number).collect(),
            gone,
            effects,
            definitions,
            unseen,
            edits,
            without,
        }
    }
}

impl Definition {
    fn new(
        change: &corvant_core::compare::DefinitionChange,
        compared: &Compared<'_>,
        strings: &mut Strings,
    ) -> Self {
        let places = words::places(compared, change.before.as_ref(), change.after.as_ref());
        let parts = words::parts(change).map(|part| {
            let places = words::places(compared, part.places.0.as_ref(), part.places.1.as_ref());
            (strings.number(&words::part(part, compared.with_values)), strings.number(&places))
        });
        Self {
            parts: parts.collect(),
            turn: words::turn(change),
            module: strings.number(&change.module),
            text: strings.number(&words::definition(change)),
            places: strings.number(&places),
        }
    }
}
