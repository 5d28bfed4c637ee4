//! All that has a name, with what is said of it, who needs whom, and where.

use super::strings::Strings;
use crate::answers::{show, words};
use corvant_core::answers::Subject;
use corvant_core::answers::atlas::Atlas;
use corvant_core::answers::show::Said;
use corvant_core::answers::terms::Reason;
use corvant_core::source::{SourceIndex, Span};
use corvant_core::wiring::Wiring;
use foldhash::HashMap;
use serde::Serialize;

/// Everything, by kind and name.
#[derive(Default, Serialize)]
pub(super) struct Things {
    subjects: Subjects,
    facts: Facts,
    nodes: Nodes,
    needs: Needs,
    links: Links,
}

/// What can be looked up; facts of a subject end where those of the next begin.
#[derive(Default, Serialize)]
struct Subjects {
    kind: Vec<u8>,
    name: Vec<u32>,
    fact: Vec<u32>,
}

/// What is said of subjects where they are defined.
#[derive(Default, Serialize)]
struct Facts {
    section: Vec<u8>,
    text: Vec<u32>,
    at: Addresses,
}

/// Files by number, and lines in them; line 0: nowhere.
#[derive(Default, Serialize)]
struct Addresses {
    file: Vec<u32>,
    line: Vec<u32>,
}

impl Addresses {
    fn add(&mut self, wiring: &Wiring, place: Option<(SourceIndex, Span)>) {
        let line = place.map_or(0, |(source, span)| wiring.sources[source.index()].position(span.start).line);
        self.file.push(place.map_or(0, |(source, _)| source.0));
        self.line.push(line);
    }
}

/// Nodes of the graph.
#[derive(Default, Serialize)]
struct Nodes {
    subject: Vec<u32>,
    /// What it is called, where that is not the subject's name.
    label: Vec<u32>,
    built: Vec<u8>,
    module: Vec<u32>,
    at: Addresses,
}

/// Needs by their holders.
#[derive(Default, Serialize)]
struct Needs {
    holder: Vec<u32>,
    slot: Vec<u32>,
    aim: Vec<u32>,
    reason: Vec<u32>,
    manner: Vec<u32>,
    /// Whether it is on something that is not found.
    unmet: Vec<u8>,
    /// The node that is got; -1: none.
    to: Vec<isize>,
    at: Addresses,
}

/// Edges without a need.
#[derive(Default, Serialize)]
struct Links {
    from: Vec<u32>,
    to: Vec<u32>,
}

impl Things {
    pub(super) fn new(atlas: &Atlas<'_, '_>, wiring: &Wiring, strings: &mut Strings) -> Self {
        let mut things = Self::default();
        let subjects = atlas.subjects();
        for &subject in &subjects {
            things.subject(atlas, wiring, subject, strings);
        }
        things.subjects.fact.push(things.facts.section.len() as u32);
        let numbers: HashMap<Subject, u32> = subjects.into_iter().zip(0..).collect();
        for number in 0..atlas.len() {
            things.node(atlas, wiring, number, &numbers, strings);
        }
        things
    }

    fn subject(&mut self, atlas: &Atlas<'_, '_>, wiring: &Wiring, subject: Subject, strings: &mut Strings) {
        let sheet = atlas.sheet(subject);
        self.subjects.kind.push(subject.kind as u8);
        self.subjects.name.push(strings.number(&sheet.name));
        self.subjects.fact.push(self.facts.section.len() as u32);
        // A page is handed around, and values may be secret: it says where they are, not what.
        let is_shown = |said: &Said| !matches!(said, Said::Value { .. });
        for fact in sheet.facts.iter().filter(|fact| is_shown(&fact.said)) {
            self.facts.section.push(fact.section as u8);
            self.facts.text.push(strings.number(&show::line(&sheet, wiring, fact)));
            self.facts.at.add(wiring, fact.place.as_ref().map(|place| (place.source, place.span)));
        }
    }

    fn node(
        &mut self,
        atlas: &Atlas<'_, '_>,
        wiring: &Wiring,
        number: usize,
        numbers: &HashMap<Subject, u32>,
        strings: &mut Strings,
    ) {
        let node = atlas.node(number);
        self.nodes.subject.push(numbers[&node.subject]);
        let label = words::thing(&node.thing);
        self.nodes.label.push(if label == node.thing.name { 0 } else { strings.number(&label) });
        self.nodes.built.push(node.is_built.into());
        self.nodes.module.push(strings.number(node.module.unwrap_or_default()));
        self.nodes.at.add(wiring, node.place.as_ref().map(|place| (place.source, place.span)));
        for need in atlas.needs(number) {
            let needs = &mut self.needs;
            needs.holder.push(number as u32);
            needs.slot.push(strings.number(need.slot));
            needs.aim.push(strings.number(&words::aim(&need.aim)));
            needs.reason.push(strings.number(&words::reason(wiring, &need.gets.reason)));
            needs.manner.push(strings.number(&words::manner(need.manner)));
            needs.unmet.push(matches!(need.gets.reason, Reason::Missing | Reason::MissingKey).into());
            needs.to.push(need.to.map_or(-1, usize::cast_signed));
            needs.at.add(wiring, Some((need.source, need.span)));
        }
        for to in atlas.links(number) {
            self.links.from.push(number as u32);
            self.links.to.push(to as u32);
        }
    }
}
