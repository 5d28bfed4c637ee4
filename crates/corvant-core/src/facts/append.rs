//! Joining the facts of many files: one flat array after another, several at a time.

use super::many::{Shift, Shifted};
use super::{Facts, Many, Part, Parts, SuppliedBy, Target};
use crate::finding::Fix;
use crate::name::Name;
use crate::source::SourceIndex;
use std::mem::take;

/// What moves behind others of its kind.
pub(crate) trait Moved {
    /// The same, of a file of this number, with ranges where their elements now are.
    fn moved(self, source: SourceIndex, shift: &Shift) -> Self;
}

impl Moved for SourceIndex {
    fn moved(self, source: SourceIndex, _: &Shift) -> Self {
        source
    }
}

impl<T: Shifted> Moved for Many<T> {
    fn moved(self, _: SourceIndex, shift: &Shift) -> Self {
        self.shifted(T::shift(shift))
    }
}

impl<T: Moved> Moved for Option<T> {
    fn moved(self, source: SourceIndex, shift: &Shift) -> Self {
        self.map(|thing| thing.moved(source, shift))
    }
}

impl<T: Moved, U: Moved> Moved for (T, U) {
    fn moved(self, source: SourceIndex, shift: &Shift) -> Self {
        (self.0.moved(source, shift), self.1.moved(source, shift))
    }
}

impl Moved for Vec<Fix> {
    fn moved(mut self, source: SourceIndex, _: &Shift) -> Self {
        let changes = self.iter_mut().flat_map(|fix| &mut fix.changes);
        changes.for_each(|change| change.source = source);
        self
    }
}

macro_rules! placeless {
    ($($item:ty),*) => {
        $(impl Moved for $item {
            fn moved(self, _: SourceIndex, _: &Shift) -> Self {
                self
            }
        })*
    };
}

placeless! { Name, SuppliedBy, Target, Vec<Name> }

/// One flat array of all files.
fn joined<T: Moved>(arrays: Vec<Vec<T>>, places: &[(SourceIndex, Shift)]) -> Vec<T> {
    let mut all = Vec::with_capacity(arrays.iter().map(Vec::len).sum());
    for (array, (source, shift)) in arrays.into_iter().zip(places) {
        all.extend(array.into_iter().map(|item| item.moved(*source, shift)));
    }
    all
}

/// Puts elements of an array behind those that are kept.
fn kept<T: Part + Copy>(of: &mut Many<T>, from: &[T], parts: &mut Parts) {
    let start = T::array(parts).len();
    T::array_mut(parts).extend_from_slice(&from[of.range()]);
    *of = Many::since(start, parts);
}

impl Facts {
    /// Drops needs and taggings that nothing has any more, after definitions were taken away.
    pub(crate) fn drop_what_nobody_has(&mut self) {
        let (needs, taggings) = (take(&mut self.parts.needs), take(&mut self.parts.taggings));
        for service in &mut self.services {
            kept(&mut service.needs, &needs, &mut self.parts);
            kept(&mut service.taggings, &taggings, &mut self.parts);
        }
        for entry in &mut self.entries {
            kept(&mut entry.needs, &needs, &mut self.parts);
        }
        for provider in &mut self.providers {
            kept(&mut provider.register, &needs, &mut self.parts);
            kept(&mut provider.start, &needs, &mut self.parts);
        }
    }

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
            shift.callables += facts.parts.callables.len() as u32;
            shift.parameters += facts.parts.parameters.len() as u32;
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
            join! { parts.stage_values; types; imports; installed; requirements; derived; uses; disabled; stages; contracts; tags; choices }
            join! { parts.parameters; parts.callables; scanned_marks; computed; idle_choices }
            join! { declared_types; doubtful_scopes; providers; removed; rosters; supplied; expectations; allowances; troubles; parts.attribute_rules }
        });
        all
    }
}
