//! `tag-attribute`: attributes of a tag that are not as the tag's declaration says.

use crate::facts::{Attribute, AttributeRule, Scalar, Tagging};
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::meanings;
use crate::rules::Rule;
use crate::source::{Place, SourceIndex, Span};
use crate::views::{Check, Sink, StageView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "tag-attribute",
        family: Family::Tags,
        severity: Severity::Error,
        summary: "an attribute of a tag is missing, unknown, of the wrong kind, outside its set, or not unique",
        why: "The one that collects the tag reads the attributes: it fails on them, or silently does something else \
          than was meant.",
        limits: "Only tags whose declaration lists its `attributes` are checked. Where two carriers share a value \
             that must be unique, the later definition is blamed.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags:
  departure-rule:
    attributes: { priority: { kind: integer, required: true } }
services:
  timetable.board: { type: velmora.Board, needs: { rules: { tag: departure-rule } } }
  timetable.night: { type: velmora.NightRule, tags: [{ departure-rule: { priority: high } }] }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags:
  departure-rule:
    attributes: { priority: { kind: integer, required: true } }
services:
  timetable.board: { type: velmora.Board, needs: { rules: { tag: departure-rule } } }
  timetable.night: { type: velmora.NightRule, tags: [{ departure-rule: { priority: 10 } }] }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

/// One thing wrong with one attribute.
struct AttributeFault {
    what: String,
    places: Vec<(SourceIndex, Span, String)>,
    fix: Fix,
    tag: Name,
}

/// Who was first to give a unique attribute a value.
type FirstWith = HashMap<(Name, Name, Name), (ServiceIndex, SourceIndex, Span)>;

fn check(view: &StageView<'_>, sink: &mut Sink) {
    let mut rules: HashMap<Name, &[AttributeRule]> = HashMap::new();
    for tag in view.declared_tags() {
        if let Some(attributes) = tag.attributes {
            rules.entry(tag.tag.name).or_insert_with(|| attributes.of(view.parts()));
        }
    }
    if rules.is_empty() {
        return;
    }
    let mut first_with = FirstWith::new();
    for (index, service, is_looked_at) in view.services_in_company() {
        if !view.resolution().ids.is_built(index) {
            continue;
        }
        let mut faults = Vec::new();
        for tagging in service.taggings.of(view.parts()) {
            if let Some(rules) = rules.get(&tagging.tag.name) {
                look_at(view, index, tagging, rules, &mut first_with, &mut faults);
            }
        }
        if is_looked_at && !faults.is_empty() {
            sink.report(finding(view, index, faults));
        }
    }
}

fn finding(view: &StageView<'_>, carrier: ServiceIndex, faults: Vec<AttributeFault>) -> Finding {
    let id = view.id(carrier);
    let what: Vec<&str> = faults.iter().map(|fault| fault.what.as_str()).collect();
    let mut finding = Finding::new(&RULE.text, id, format!("in the tags of {id}, {}", what.join("; ")));
    let is_only = faults.len() == 1;
    for fault in faults {
        let places = fault.places.into_iter().map(|(source, span, role)| Place::new(source, span, role));
        finding.places.extend(places);
        finding.fixes.push(if is_only { fault.fix } else { fault.fix.at_most_likely() });
        // What collects the tag fails.
        let collector = view.graph().tag(fault.tag);
        finding = finding.failing(collector.map(|node| Origin { node, while_building: true }));
    }
    finding
}

fn look_at(
    view: &StageView<'_>,
    carrier: ServiceIndex,
    tagging: &Tagging,
    rules: &[AttributeRule],
    first_with: &mut FirstWith,
    faults: &mut Vec<AttributeFault>,
) {
    let given = tagging.attributes.of(view.parts());
    let tag = tagging.tag.name;
    for rule in rules {
        match given.iter().find(|attribute| attribute.attribute.name == rule.attribute.name) {
            None if rule.required => faults.push(missing(view, tagging, rule)),
            None => {}
            Some(attribute) => {
                if let Some(fault) = misfit(view, tagging, rule, attribute) {
                    faults.push(fault);
                } else if rule.unique {
                    let place = (carrier, tagging.source, attribute.value.span);
                    let first = *first_with
                        .entry((tag, attribute.attribute.name, attribute.value.name))
                        .or_insert(place);
                    if first.0 != carrier {
                        faults.push(taken(view, tagging, attribute, first.0, first.1, first.2));
                    }
                }
            }
        }
    }
    let known =
        |attribute: &&Attribute| !rules.iter().any(|rule| rule.attribute.name == attribute.attribute.name);
    for attribute in given.iter().filter(known) {
        faults.push(unknown(view, tagging, rules, attribute));
    }
}

fn missing(view: &StageView<'_>, tagging: &Tagging, rule: &AttributeRule) -> AttributeFault {
    let (tag, name) = (view.text(tagging.tag.name), view.text(rule.attribute.name));
    let kind = rule.kind.map_or("VALUE", Scalar::word);
    AttributeFault {
        what: format!("{tag} lacks its attribute `{name}`"),
        places: vec![(tagging.source, tagging.tag.span, format!("without `{name}`"))],
        fix: Fix::advice(view.say(tagging.source, EditSort::Attribute, name, || {
            format!("write `{tag}: {{ {name}: {kind} }}`")
        })),
        tag: tagging.tag.name,
    }
}

fn misfit(
    view: &StageView<'_>,
    tagging: &Tagging,
    rule: &AttributeRule,
    attribute: &Attribute,
) -> Option<AttributeFault> {
    let fits = match rule.kind {
        Some(Scalar::Number) => matches!(attribute.kind, Scalar::Number | Scalar::Integer),
        Some(kind) => attribute.kind == kind,
        None => true,
    };
    let name = view.text(attribute.attribute.name);
    let value = view.text(attribute.value.name);
    let allowed = rule.one_of.of(view.parts());
    let allowed: Vec<&str> = allowed.iter().map(|value| view.text(value.name)).collect();
    let (what, fix) = if !fits {
        let kind = rule.kind.map_or("", Scalar::word);
        let found = attribute.kind.word();
        (
            format!("`{name}` is {found} ({value}), not {kind}"),
            Fix::advice(format!("give `{name}` a value of kind {kind}")),
        )
    } else if !allowed.is_empty() && !allowed.contains(&value) {
        let list = allowed.join(", ");
        let place = (tagging.source, attribute.value.span);
        let fix = meant(place, value, &allowed, |to| format!("write {to}"))
            .unwrap_or_else(|| Fix::advice(format!("write one of {list}")));
        (format!("`{name}` is {value}, not one of {list}"), fix)
    } else {
        return None;
    };
    let places = vec![(tagging.source, attribute.value.span, "this value".to_owned())];
    Some(AttributeFault { what, places, fix, tag: tagging.tag.name })
}

fn taken(
    view: &StageView<'_>,
    tagging: &Tagging,
    attribute: &Attribute,
    first: ServiceIndex,
    source: SourceIndex,
    span: Span,
) -> AttributeFault {
    let (name, value) = (view.text(attribute.attribute.name), view.text(attribute.value.name));
    let id = view.id(first);
    AttributeFault {
        what: format!("`{name}: {value}` is taken by {id}, and no two may share it"),
        places: vec![
            (tagging.source, attribute.value.span, "taken".to_owned()),
            (source, span, format!("taken here by {id}")),
        ],
        fix: Fix::advice(format!("give one of the two another `{name}`")),
        tag: tagging.tag.name,
    }
}

/// The fix of a text that is none of those that are known, if it comes near one of them.
fn meant(
    place: (SourceIndex, Span),
    written: &str,
    known: &[&str],
    title: impl Fn(&str) -> String,
) -> Option<Fix> {
    let meant = meanings(&[written], known)[0]?;
    let to = known[meant.known];
    Some(Fix::rename(title(to), [place], written, to, meant.likeness))
}

fn unknown(
    view: &StageView<'_>,
    tagging: &Tagging,
    rules: &[AttributeRule],
    attribute: &Attribute,
) -> AttributeFault {
    let (tag, name) = (view.text(tagging.tag.name), view.text(attribute.attribute.name));
    let known: Vec<&str> = rules.iter().map(|rule| view.text(rule.attribute.name)).collect();
    let place = (tagging.source, attribute.attribute.span);
    let fix = meant(place, name, &known, |to| format!("write `{to}`"))
        .unwrap_or_else(|| Fix::advice(format!("take `{name}` out, or declare it with the tag")));
    AttributeFault {
        what: format!("{tag} has no attribute `{name}`"),
        places: vec![(tagging.source, attribute.attribute.span, "no such attribute".to_owned())],
        fix,
        tag: tagging.tag.name,
    }
}
