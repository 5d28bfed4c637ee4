//! Joining the facts of many files: one flat array after another, several at a time.

use super::{Attribute, AttributeRule, Derived, Facts, Many, Named, SourceIndex, StageValue, Trouble};
use crate::name::Name;
use std::mem::take;

/// How far one file's elements of each flat array move when they are joined.
#[derive(Clone, Copy, Default)]
struct Shift {
    named: u32,
    needs: u32,
    taggings: u32,
    attributes: u32,
    attribute_rules: u32,
    stage_values: u32,
}

/// An item that knows its file and the ranges it holds.
trait Item {
    fn moved(self, source: SourceIndex, shift: &Shift) -> Self;
}

macro_rules! items {
    ($($item:ident { $($field:ident in $table:ident),* $(; $maybe:ident in $maybe_table:ident)* })*) => {
        $(#[allow(clippy::needless_update, reason = "a roster is nothing but its ranges")]
        impl Item for super::$item {
            fn moved(self, source: SourceIndex, _shift: &Shift) -> Self {
                Self {
                    source,
                    $($field: self.$field.shifted(_shift.$table),)*
                    $($maybe: self.$maybe.map(|many: Many<_>| many.shifted(_shift.$maybe_table)),)*
                    ..self
                }
            }
        })*
    };
}

items! {
    Service { offers in named, needs in needs, taggings in taggings, stages in named }
    Setting { references in named, stages in stage_values }
    Contract { extends in named, keys in named }
    Tag { ; attributes in attribute_rules }
    Provider { register in needs, start in needs, after in named; registers in named }
    Roster { providers in named }
    Entry { needs in needs }
    Tagging { attributes in attributes }
    Choice {}
    Supplied {}
    Expectation {}
    Allowance {}
    Need {}
}

impl Item for Trouble {
    fn moved(mut self, source: SourceIndex, _: &Shift) -> Self {
        let changes = self.fixes.iter_mut().flat_map(|fix| &mut fix.changes);
        changes.for_each(|change| change.source = source);
        Self { source, ..self }
    }
}

impl Item for Derived {
    fn moved(self, source: SourceIndex, _: &Shift) -> Self {
        Self { source, ..self }
    }
}

impl Item for (SourceIndex, Named) {
    fn moved(self, source: SourceIndex, _: &Shift) -> Self {
        (source, self.1)
    }
}

impl Item for AttributeRule {
    fn moved(self, _: SourceIndex, shift: &Shift) -> Self {
        Self { one_of: self.one_of.shifted(shift.named), ..self }
    }
}

impl Item for StageValue {
    fn moved(self, _: SourceIndex, shift: &Shift) -> Self {
        Self { references: self.references.shifted(shift.named), ..self }
    }
}

macro_rules! placeless {
    ($($item:ty),*) => {
        $(impl Item for $item {
            fn moved(self, _: SourceIndex, _: &Shift) -> Self {
                self
            }
        })*
    };
}

placeless! { Named, Attribute, Name }

/// One flat array of all files.
fn joined<T: Item>(arrays: Vec<Vec<T>>, places: &[(SourceIndex, Shift)]) -> Vec<T> {
    let mut all = Vec::with_capacity(arrays.iter().map(Vec::len).sum());
    for (array, (source, shift)) in arrays.into_iter().zip(places) {
        all.extend(array.into_iter().map(|item| item.moved(*source, shift)));
    }
    all
}

impl Facts {
    /// The facts of many files, in the order of the files; ranges are moved to where their elements now are.
    pub(crate) fn join(mut files: Vec<(SourceIndex, Self)>) -> Self {
        let mut shift = Shift::default();
        let mut places = Vec::with_capacity(files.len());
        for (source, facts) in &files {
            places.push((*source, shift));
            shift.named += facts.parts.named.len() as u32;
            shift.needs += facts.parts.needs.len() as u32;
            shift.taggings += facts.parts.taggings.len() as u32;
            shift.attributes += facts.parts.attributes.len() as u32;
            shift.attribute_rules += facts.parts.attribute_rules.len() as u32;
            shift.stage_values += facts.parts.stage_values.len() as u32;
        }
        let places = places.as_slice();
        let mut all = Self::default();
        rayon::scope(|scope| {
            macro_rules! join {
                ($($($array:ident).+);*) => {
                    $(let arrays: Vec<_> = files.iter_mut().map(|(_, facts)| take(&mut facts.$($array).+)).collect();
                    let to = &mut all.$($array).+;
                    scope.spawn(move |_| *to = joined(arrays, places));)*
                };
            }
            // The longest first, so that no thread is left with one of them at the end.
            join! { services; parts.needs; parts.named; parts.taggings; settings; entries; parts.attributes }
            join! { parts.stage_values; types; derived; uses; disabled; stages; contracts; tags; choices }
            join! { providers; rosters; supplied; expectations; allowances; troubles; parts.attribute_rules }
        });
        all
    }
}
