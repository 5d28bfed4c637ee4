//! Words for changes.

use super::Compared;
use crate::answers::words::{aim, called};
use crate::text::words::counted;
use corvant_core::answers::terms::Thing;
use corvant_core::compare::{
    Aspect, DefinitionChange, Effect, EffectKind, Outcome, PartChange, Turn, Unseen, Value, Which,
};
use corvant_core::source::Place;
use corvant_core::wiring::Wiring;
use corvant_core::word::join_words;

/// Names that are listed before the rest is counted.
const LISTED: usize = 8;

/// How many findings are new, worse, gone and as they were.
pub(crate) fn findings(compared: &Compared<'_>) -> String {
    let changes = &compared.comparison.findings;
    let is = |count: usize, what: &str| {
        (count > 0).then(|| format!("{} {what}", counted(count, "finding is", "findings are")))
    };
    let told = [
        is(changes.new.len(), "new"),
        is(changes.worse.len(), "worse than before"),
        is(changes.better.len(), "less bad than before"),
        is(changes.gone.len(), "gone"),
        is(changes.same, "as before"),
    ];
    let told: Vec<String> = told.into_iter().flatten().collect();
    if told.is_empty() { "there are no findings, before and now".to_owned() } else { told.join(", ") }
}

/// What could not be seen, and in which state.
pub(crate) fn unseen(unseen: &Unseen, compared: &Compared<'_>) -> String {
    let state = match unseen.state {
        Which::Old => compared.old.name,
        Which::New => compared.new.name,
        Which::Both => "both",
    };
    format!("{} in {state}: {}", unseen.spot.subject, unseen.spot.message)
}

/// What became of a definition, in a word.
pub(crate) fn turn(change: &DefinitionChange) -> &'static str {
    match change.turn {
        Turn::New => "new",
        Turn::Gone => "gone",
        Turn::Renamed { .. } => "renamed",
        Turn::Changed => "changed",
    }
}

/// A definition, with what it was called.
pub(crate) fn definition(change: &DefinitionChange) -> String {
    let from = match &change.turn {
        Turn::Renamed { from } => format!(", formerly {from}"),
        _ => String::new(),
    };
    format!("{} {}{from}", change.kind.word(), change.name)
}

/// What is told of a definition that is another; of what is new or gone its name says enough.
pub(crate) fn parts(change: &DefinitionChange) -> impl Iterator<Item = &PartChange> {
    let is_told = matches!(change.turn, Turn::Changed | Turn::Renamed { .. });
    change.parts.iter().filter(move |_| is_told)
}

/// A part on a line: `need clock: contract Clock → service signals.clock`.
pub(crate) fn part(part: &PartChange, with_values: bool) -> String {
    let item = part.item.as_str();
    let what = match (part.aspect, item) {
        (Aspect::Value, "") => "value".to_owned(),
        (Aspect::Value, stage) => format!("value in {stage}"),
        (aspect, "") => aspect.word().to_owned(),
        (aspect, item) => format!("{} {item}", aspect.word()),
    };
    let said = |said: &Value| value(said, with_values);
    match (&part.before, &part.after) {
        (Some(was), Some(is)) => match (said(was), said(is)) {
            (was, is) if was == is => format!("{what}: another than before"),
            (was, is) => format!("{what}: {was} → {is}"),
        },
        (before, after) => {
            let text = before.as_ref().or(after.as_ref()).map(said).unwrap_or_default();
            let text = if text.is_empty() { text } else { format!(": {text}") };
            let when = if after.is_some() { "now" } else { "no longer" };
            match verb(part.aspect) {
                Some(verb) => format!("{when} {verb} {item}{text}").trim_end().to_owned(),
                None => format!("{when} has {what}{text}"),
            }
        }
    }
}

/// What a definition does with one of several things.
fn verb(aspect: Aspect) -> Option<&'static str> {
    Some(match aspect {
        Aspect::Offers => "offers",
        Aspect::Need => "needs",
        Aspect::Register => "uses while registering",
        Aspect::Start => "uses at start",
        Aspect::Tag => "carries",
        Aspect::Stage => "is for stage",
        Aspect::Except => "is kept from stage",
        Aspect::Extends => "extends",
        Aspect::Registers => "registers",
        Aspect::After => "runs after",
        Aspect::Uses => "uses",
        Aspect::Default => "wins over others",
        Aspect::Internal => "is internal",
        Aspect::Template => "is a template",
        Aspect::Required => "is required",
        _ => return None,
    })
}

fn value(value: &Value, with_values: bool) -> String {
    match value {
        Value::Yes => String::new(),
        Value::Name(name) => name.clone(),
        Value::Need { aim: aimed, lazy, optional, via } => {
            let via = if *via == "constructor" { "" } else { via };
            let how = [if *lazy { "lazy" } else { "" }, if *optional { "optional" } else { "" }, via];
            let how: Vec<&str> = how.into_iter().filter(|word| !word.is_empty()).collect();
            let how = if how.is_empty() { String::new() } else { format!(" ({})", how.join(", ")) };
            format!("{}{how}", aim(aimed))
        }
        Value::Text(text) if with_values => text.clone(),
        Value::Text(_) => "a value".to_owned(),
    }
}

/// What follows, on a line.
pub(crate) fn effect(effect: &Effect, with_values: bool) -> String {
    let subject = &effect.subject;
    let key = effect.key.as_ref().map_or_else(String::new, |key| format!(" under {key}"));
    let pair = || (outcome(&effect.before, with_values), outcome(&effect.after, with_values));
    let text = match effect.kind {
        EffectKind::Winner => {
            let (was, is) = pair();
            format!("contract {subject}{key}: {was} → {is}")
        }
        EffectKind::Setting => match pair() {
            (was, is) if was == is => format!("setting {subject}: another value"),
            (was, is) => format!("setting {subject}: {was} → {is}"),
        },
        EffectKind::Lifetime => {
            let (was, is) = pair();
            format!("service {subject} lives: {was} → {is}")
        }
        EffectKind::Carriers => {
            format!("tag {subject}: {}", lists(&effect.before, &effect.after, "carried by"))
        }
        EffectKind::Providers => format!("roster: {}", lists(&effect.before, &effect.after, "loads")),
        EffectKind::Uses => {
            format!("entry {subject}: {}", lists(&effect.before, &effect.after, "comes to use"))
        }
    };
    format!("{text}{}{}", stages(effect), whom(&effect.whom, effect.more))
}

/// Where it is so, if that is not everywhere.
fn stages(effect: &Effect) -> String {
    match (effect.stages.as_slice(), effect.none_chosen) {
        _ if effect.everywhere => String::new(),
        ([], _) => ", with no stage chosen".to_owned(),
        (stages, false) => format!(", in {}", join_words(stages)),
        (stages, true) => format!(", also in {}", join_words(stages)),
    }
}

fn whom(whom: &[Thing], more: usize) -> String {
    let mut names: Vec<String> = whom.iter().map(called).collect();
    if names.is_empty() {
        return String::new();
    }
    if more > 0 {
        names.push(format!("{more} more"));
    }
    format!("; asked for by {}", join_words(&names))
}

fn outcome(outcome: &Outcome, with_values: bool) -> String {
    match outcome {
        Outcome::Nothing => "nothing".to_owned(),
        Outcome::Name(name) => name.clone(),
        Outcome::Unsettled(count) => format!("one of {count}, nothing says which"),
        Outcome::Names(names) => names.join(", "),
        Outcome::Text(text) if with_values => text.clone(),
        Outcome::Text(_) => "a value".to_owned(),
    }
}

/// What a list has more, and less, and whether it stands in another order.
fn lists(before: &Outcome, after: &Outcome, how: &str) -> String {
    let names = |outcome: &Outcome| match outcome {
        Outcome::Names(names) => names.clone(),
        _ => Vec::new(),
    };
    let (was, is) = (names(before), names(after));
    let only = |one: &[String], other: &[String]| -> Vec<String> {
        one.iter().filter(|name| !other.contains(name)).cloned().collect()
    };
    let (come, gone) = (only(&is, &was), only(&was, &is));
    let told = [(&come, format!("now {how}")), (&gone, format!("no more {how}"))];
    let mut told: Vec<String> = told
        .into_iter()
        .filter(|(names, _)| !names.is_empty())
        .map(|(names, words)| format!("{words} {}", listed(names)))
        .collect();
    let kept = |of: &[String], other: &[String]| -> Vec<String> {
        of.iter().filter(|name| other.contains(name)).cloned().collect()
    };
    let (was, is) = (kept(&was, &is), kept(&is, &was));
    if was != is {
        told.push(format!("in another order: {}", listed(&is)));
    }
    told.join("; ")
}

fn listed(names: &[String]) -> String {
    let more = names.len().saturating_sub(LISTED);
    let mut shown: Vec<String> = names.iter().take(LISTED).cloned().collect();
    if more > 0 {
        shown.push(format!("{more} more"));
    }
    join_words(&shown)
}

/// Where something was and is: `old.yaml:3 → new.yaml:5`, or one of them.
pub(crate) fn places(compared: &Compared<'_>, before: Option<&Place>, after: Option<&Place>) -> String {
    let at = |wiring: &Wiring, place: &Place| wiring.address(place.source, place.span);
    let (was, is) = (
        before.map(|place| at(compared.old.wiring, place)),
        after.map(|place| at(compared.new.wiring, place)),
    );
    match (was, is) {
        (Some(was), Some(is)) if was == is => is,
        (Some(was), Some(is)) => format!("{was} → {is}"),
        (was, is) => is.or(was).unwrap_or_default(),
    }
}
