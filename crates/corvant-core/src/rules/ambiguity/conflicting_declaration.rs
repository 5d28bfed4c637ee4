//! `conflicting-declaration`: one setting, tag or contract of which two declarations say different things.

use crate::facts::{AttributeRule, Many, Named};
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::source::{Place, SourceIndex, Span};
use crate::views::{Check, Sink, WholeStageView};
use crate::word::join_words;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "conflicting-declaration",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "one setting, tag or contract of which two declarations say different things",
        why: "One of the two is silently lost, and which one depends on the order in which modules are loaded.",
        limits: "Declarations of one thing add up, and what they say alike is no conflict. A value for a stage goes \
             before the one for all stages, and what the workspace file says for a stage before what manifests \
             say; only what is left then can differ. Texts of values are compared, not their kinds.",
        fixes: Certainty::Advice,
        faulty: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
settings: { clock.zone: Europe/Velmora }
entries: { station-clock: { needs: { zone: { setting: clock.zone } } } }
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings: { clock.zone: UTC }
"#,
        corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
settings: { clock.zone: Europe/Velmora }
entries: { station-clock: { needs: { zone: { setting: clock.zone } } } }
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings: { clock.zone: { stages: { drill: UTC } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

/// What a declaration says, and where.
struct Declaration {
    place: (SourceIndex, Span),
    what: String,
}

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let (facts, declared) = (&view.wiring().facts, &view.wiring().declared);
    for (&name, numbers) in &declared.several_settings {
        let settings = numbers.iter().map(|&number| &facts.settings[number as usize]);
        let values = settings.filter_map(|setting| {
            let (value, _) = declared.value(facts, setting, view.resolution().stage)?;
            Some(said(view, setting.source, value))
        });
        report(view, "setting", name, [("values", values.collect())], sink);
    }
    for (&name, numbers) in &declared.several_contracts {
        let contracts = || numbers.iter().map(|&number| &facts.contracts[number as usize]);
        let meant = contracts().filter_map(|of| {
            let (meant, span) = of.meant_for?;
            Some(Declaration { place: (of.source, span), what: meant.word().to_owned() })
        });
        let keys = contracts().filter(|of| !of.keys.is_empty());
        let keys = keys.map(|of| Declaration {
            place: (of.source, of.contract.span),
            what: sorted(view, of.keys).join(", "),
        });
        let aspects =
            [("ways in which it is meant to be used", meant.collect()), ("lists of keys", keys.collect())];
        report(view, "contract", name, aspects, sink);
    }
    for (&name, numbers) in &declared.several_tags {
        let tags = || numbers.iter().map(|&number| &facts.tags[number as usize]);
        let contracts = tags().filter_map(|tag| Some(said(view, tag.source, tag.contract?)));
        let least = tags().filter(|tag| tag.at_least > 0);
        let least = least
            .map(|tag| Declaration { place: (tag.source, tag.tag.span), what: tag.at_least.to_string() });
        let attributes = tags().filter_map(|tag| {
            let what = signature(view, tag.attributes?);
            Some(Declaration { place: (tag.source, tag.tag.span), what })
        });
        let aspects = [
            ("contracts", contracts.collect()),
            ("numbers of carriers", least.collect()),
            ("attributes", attributes.collect()),
        ];
        report(view, "tag", name, aspects, sink);
    }
}

fn said(view: &WholeStageView<'_>, source: SourceIndex, named: Named) -> Declaration {
    Declaration { place: (source, named.span), what: view.text(named.name).to_owned() }
}

fn sorted<'a>(view: &WholeStageView<'a>, names: Many<Named>) -> Vec<&'a str> {
    let names = names.of(view.parts()).iter().map(|named| view.text(named.name));
    let mut names: Vec<&str> = names.collect();
    names.sort_unstable();
    names.dedup();
    names
}

/// All that a declaration says of attributes, in the order of their names.
fn signature(view: &WholeStageView<'_>, rules: Many<AttributeRule>) -> String {
    let rules = rules.of(view.parts()).iter().map(|rule| {
        let (name, one_of) = (view.text(rule.attribute.name), sorted(view, rule.one_of));
        format!("{name:?}: {:?} {} {} {one_of:?}", rule.kind, rule.required, rule.unique)
    });
    let mut rules: Vec<String> = rules.collect();
    rules.sort_unstable();
    rules.join("; ")
}

/// Reports all aspects in which declarations of one thing differ.
fn report<const N: usize>(
    view: &WholeStageView<'_>,
    kind: &str,
    name: Name,
    aspects: [(&str, Vec<Declaration>); N],
    sink: &mut Sink,
) {
    let differ = |said: &[Declaration]| said.iter().any(|other| other.what != said[0].what);
    let aspects: Vec<_> = aspects.into_iter().filter(|(_, said)| differ(said)).collect();
    if aspects.is_empty() {
        return;
    }
    let text = view.text(name);
    let what: Vec<&str> = aspects.iter().map(|(what, _)| *what).collect();
    let message = format!("declarations of the {kind} {text} give it different {}", join_words(&what));
    let mut finding = Finding::new(&RULE.text, format!("{kind} {text}"), message);
    for (_, said) in aspects {
        let mut places: Vec<(SourceIndex, Span)> = said.into_iter().map(|said| said.place).collect();
        places.sort_unstable();
        let first = places.remove(0);
        let later = places.into_iter().map(|place| (place, "declared otherwise here"));
        let all = later.chain([(first, "first declaration")]);
        finding.places.extend(all.map(|((source, span), role)| Place::new(source, span, role)));
    }
    sink.report(finding.advice("let one of them say it, and take it out of the others"));
}
