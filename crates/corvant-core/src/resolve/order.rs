//! The order in which the carriers of a tag are collected.

use super::Resolution;
use crate::facts::{Scalar, Tag, Tagging};
use crate::name::Name;
use crate::wiring::{ServiceIndex, Wiring};
use std::cmp::Ordering;

/// The attributes by which carriers of a tag are put in order: numbers that every carrier must give, in the
/// order of their declaration.
pub(crate) fn order_attributes(wiring: &Wiring, tag: &Tag) -> Vec<Name> {
    let Some(rules) = tag.attributes else { return Vec::new() };
    let rules = rules.of(&wiring.facts.parts).iter();
    let numbers =
        rules.filter(|rule| rule.required && matches!(rule.kind, Some(Scalar::Integer | Scalar::Number)));
    numbers.map(|rule| rule.attribute.name).collect()
}

/// The values that a tagging gives for the order attributes; `None` if one is missing or no number, which is a
/// finding of its own.
pub(crate) fn place(wiring: &Wiring, tagging: &Tagging, order: &[Name]) -> Option<Vec<Name>> {
    let given = tagging.attributes.of(&wiring.facts.parts);
    let value = |name: &Name| {
        let attribute = given.iter().find(|attribute| attribute.attribute.name == *name)?;
        matches!(attribute.kind, Scalar::Integer | Scalar::Number).then_some(attribute.value.name)
    };
    order.iter().map(value).collect()
}

impl Resolution {
    /// The services that carry a tag, one for each time it is carried, as a need on it gets them: smallest attributes
    /// first; those without come last, and equal ones stand in the order of their definitions.
    pub(crate) fn collected<'a>(&self, wiring: &'a Wiring, tag: Name) -> Vec<(ServiceIndex, &'a Tagging)> {
        let declared = wiring.declared.tags.iter().find(|declared| declared.tag.name == tag);
        let order = declared.map(|declared| order_attributes(wiring, declared)).unwrap_or_default();
        let numbers = |tagging: &Tagging| -> Option<Vec<f64>> {
            let place = place(wiring, tagging, &order)?;
            place.iter().map(|&value| wiring.text(value).parse().ok()).collect()
        };
        let taggings = |carrier: ServiceIndex| {
            let taggings = wiring.service(carrier).taggings.of(&wiring.facts.parts).iter();
            taggings.filter(|tagging| tagging.tag.name == tag).map(move |tagging| (carrier, tagging))
        };
        let mut carriers: Vec<_> = self
            .carriers(tag)
            .flat_map(taggings)
            .map(|(carrier, tagging)| (numbers(tagging), (carrier, tagging)))
            .collect();
        carriers.sort_by(|(one, _), (other, _)| match (one, other) {
            (Some(one), Some(other)) => one.partial_cmp(other).unwrap_or(Ordering::Equal),
            (one, other) => one.is_none().cmp(&other.is_none()),
        });
        carriers.into_iter().map(|(_, carrier)| carrier).collect()
    }
}
