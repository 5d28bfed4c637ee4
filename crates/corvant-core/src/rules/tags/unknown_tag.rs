//! `unknown-tag`: a tag that nothing declares or collects.

use crate::facts::{SuppliedKind, Target};
use crate::finding::{Certainty, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::meanings;
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, Sink, StageView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unknown-tag",
        family: Family::Tags,
        severity: Severity::Error,
        summary: "a tag that services carry and that is not declared, collected or supplied",
        why: "Nothing picks up a service by a tag that nothing collects: it is silently never called.",
        limits: "Tags that the host platform supplies are known. A tag that stands in text that could not be read \
             is taken to be declared there.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { type: velmora.Board, needs: { rules: { tag: departure-rule } } }
  timetable.night: { type: velmora.NightRule, tags: [departure-rules] }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { type: velmora.Board, needs: { rules: { tag: departure-rule } } }
  timetable.night: { type: velmora.NightRule, tags: [departure-rule] }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

/// A tag that is not known, with all that carry it.
struct Unknown {
    tag: Name,
    carriers: Vec<(SourceIndex, Span, ServiceIndex)>,
}

fn check(view: &StageView<'_>, sink: &mut Sink) {
    let unknown = unknown(view);
    if unknown.is_empty() {
        return;
    }
    let known = view.graph().tags();
    let texts: Vec<&str> = known.iter().map(|&tag| view.text(tag)).collect();
    let wanted: Vec<&str> = unknown.iter().map(|unknown| view.text(unknown.tag)).collect();
    let meant = meanings(&wanted, &texts);
    let places = known_at(view, &meant.iter().flatten().map(|meant| known[meant.known]).collect());
    for (unknown, meant) in unknown.iter().zip(meant) {
        let tag = view.text(unknown.tag);
        let count = unknown.carriers.len();
        let who = match unknown.carriers.as_slice() {
            [(_, _, one)] => format!("{} carries it and is", view.id(*one)),
            _ => format!("{count} services carry it and are"),
        };
        let message =
            format!("the tag {tag} is neither declared nor collected; {who} silently never called by it");
        let mut finding = Finding::new(&RULE.text, tag, message);
        for &(source, span, carrier) in &unknown.carriers {
            finding = finding.at(source, span, format!("carried here by {}", view.id(carrier)));
        }
        if let Some(meant) = meant {
            let name = texts[meant.known];
            let title = format!("write {name}{}", places.get(&known[meant.known]).map_or("", String::as_str));
            let carriers = unknown.carriers.iter().map(|&(source, span, _)| (source, span));
            // A carrier that has the tag already would have it twice.
            let mut all = unknown
                .carriers
                .iter()
                .flat_map(|&(_, _, carrier)| view.service(carrier).taggings.of(view.parts()));
            let is_carried = all.any(|tagging| tagging.tag.name == known[meant.known]);
            let likeness = if is_carried { meant.likeness.at_most_likely() } else { meant.likeness };
            finding = finding.fix(Fix::rename(title, carriers, tag, name, likeness));
        }
        let declare = view.say(unknown.carriers[0].0, EditSort::Collect, tag, || {
            format!("declare it under `tags`, or let the one that collects it need {{ tag: {tag} }}")
        });
        sink.report(finding.advice(declare));
    }
}

fn unknown(view: &StageView<'_>) -> Vec<Unknown> {
    let mut by_tag: HashMap<Name, usize> = HashMap::new();
    let mut unknown: Vec<Unknown> = Vec::new();
    for (index, service) in view.services() {
        if !view.resolution().ids.is_built(index) {
            continue;
        }
        for tagging in service.taggings.of(view.parts()) {
            let tag = tagging.tag.name;
            if view.graph().tag(tag).is_some() || view.doubts().mentions(tag).is_some() {
                continue;
            }
            let number = *by_tag.entry(tag).or_insert_with(|| {
                unknown.push(Unknown { tag, carriers: Vec::new() });
                unknown.len() - 1
            });
            unknown[number].carriers.push((tagging.source, tagging.tag.span, index));
        }
    }
    unknown
}

/// How each of some known tags comes to be known, with the place.
fn known_at(view: &StageView<'_>, tags: &HashSet<Name>) -> HashMap<Name, String> {
    let facts = &view.for_advice().facts;
    let mut places = HashMap::new();
    let mut note = |tag: Name, place: &dyn Fn() -> String| {
        if tags.contains(&tag) {
            places.entry(tag).or_insert_with(place);
        }
    };
    for tag in &facts.tags {
        note(tag.tag.name, &|| format!(", declared at {}", view.address(tag.source, tag.tag.span)));
    }
    for supplied in facts.supplied.iter().filter(|supplied| supplied.kind == SuppliedKind::Tag) {
        note(supplied.name.name, &|| ", supplied by the host platform".to_owned());
    }
    for need in &facts.parts.needs {
        if let Target::Tag(tag) = need.target {
            note(tag, &|| format!(", collected at {}", view.address(need.source, need.span)));
        }
    }
    places
}
