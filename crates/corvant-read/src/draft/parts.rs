//! What stands in one value: names with brackets, types with names behind, signs and words around names.

use super::names::is_of_name;
use super::pairs::Pair;
use super::shape::SAMPLE;
use super::study::{Value, is_type};

/// A part of a text.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Part<'s> {
    Whole,
    /// What stands before the brackets: `velmora.depot.Gate(depot.lock, depot.lamp)`.
    Head,
    /// What stands between them.
    Arguments,
    /// The type that stands before names, and those; with the sign between.
    First(&'static str),
    Behind(&'static str),
    /// The key that it stands under.
    Key,
    /// Two fields of a map that make one name together.
    Pair(&'s Pair),
}

/// Signs that part a type from the names behind it.
const BEHIND: [&str; 4] = [",", ";", "|", " "];

/// Of values that begin with types and have something else behind, the types and the rest, with the sign between.
pub(super) fn behind_types<'s>(
    values: &[Value<'s>],
) -> Option<(&'static str, Vec<Value<'s>>, Vec<Value<'s>>)> {
    let sample = &values[..values.len().min(SAMPLE)];
    let parted = |between: &&'static str| {
        let first = |value: &Value<'s>| value.text.split(*between).next().unwrap_or_default().trim();
        let rest = sample.iter().filter_map(|value| value.text.split_once(*between));
        let rest =
            rest.flat_map(|(_, rest)| rest.split(*between)).map(str::trim).filter(|part| !part.is_empty());
        let (others, types): (Vec<&str>, Vec<&str>) = rest.partition(|part| !is_type(part));
        others.len() > types.len().max(1)
            && sample.iter().filter(|value| is_type(first(value))).count() * 10 >= sample.len() * 9
    };
    let between = BEHIND.into_iter().find(|between| parted(between))?;
    let part = |value: &Value<'s>| {
        let (first, rest) = value.text.split_once(between).unwrap_or((value.text, ""));
        let rest = rest.split(between).map(str::trim).filter(|part| !part.is_empty());
        (
            Value { text: first.trim(), ..*value },
            rest.map(|text| Value { text, ..*value }).collect::<Vec<_>>(),
        )
    };
    let (types, rest): (Vec<_>, Vec<_>) = values.iter().map(part).unzip();
    Some((between, types, rest.into_iter().flatten().collect()))
}

/// A text that ends in brackets as what stands before and between them.
pub(super) fn call(text: &str) -> Option<(&str, &str)> {
    let (head, rest) = text.split_once('(')?;
    let is_name = !head.is_empty() && head.chars().all(|letter| is_of_name(letter) || letter == '$');
    rest.strip_suffix(')').filter(|_| is_name).map(|arguments| (head, arguments))
}

/// What may be a name in a part of a value: what stands behind a word and between signs.
pub(super) fn name_in(part: &str) -> &str {
    without_signs(part.rsplit(' ').next().unwrap_or(part))
}

/// A part of a value without signs before and behind it.
pub(super) fn without_signs(part: &str) -> &str {
    part.trim_matches(|sign| !is_of_name(sign))
}
