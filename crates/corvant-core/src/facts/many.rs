//! Ranges in flat arrays.

use super::Parts;
use crate::work;
use std::marker::PhantomData;
use std::ops::Range;

/// Several `T`s: a range in the flat array of `T`s, eight bytes in all.
pub struct Many<T> {
    start: u32,
    len: u32,
    of: PhantomData<fn() -> T>,
}

/// What several of are held in one flat array: the compiler knows which.
pub trait Part: Sized {
    /// That array.
    fn array(parts: &Parts) -> &[Self];

    /// The same, to be added to.
    fn array_mut(parts: &mut Parts) -> &mut Vec<Self>;
}

/// How far one file's elements of each flat array move when they are joined.
#[derive(Clone, Copy, Default)]
pub(crate) struct Shift {
    pub(super) named: u32,
    pub(super) needs: u32,
    pub(super) taggings: u32,
    pub(super) attributes: u32,
    pub(super) attribute_rules: u32,
    pub(super) stage_values: u32,
    pub(super) callables: u32,
    pub(super) parameters: u32,
}

/// How far one file's elements of an array move when they are put behind others.
pub(super) trait Shifted: Part {
    /// By so many.
    fn shift(shift: &Shift) -> u32;
}

macro_rules! parts {
    ($($part:ident in $array:ident),*) => {
        $(impl Part for super::$part {
            fn array(parts: &Parts) -> &[Self] {
                &parts.$array
            }

            fn array_mut(parts: &mut Parts) -> &mut Vec<Self> {
                &mut parts.$array
            }
        }

        impl Shifted for super::$part {
            fn shift(shift: &Shift) -> u32 {
                shift.$array
            }
        })*
    };
}

parts! {
    Named in named, Need in needs, Tagging in taggings, Attribute in attributes, AttributeRule in attribute_rules,
    StageValue in stage_values, Callable in callables, Parameter in parameters
}

impl<T: Part> Many<T> {
    /// The elements that were pushed onto their array since it had `start` elements.
    pub fn since(start: usize, parts: &Parts) -> Self {
        Self::between(start, T::array(parts).len())
    }

    /// The elements, out of their array.
    pub fn of(self, parts: &Parts) -> &[T] {
        &T::array(parts)[self.range()]
    }
}

impl<T> Many<T> {
    fn between(start: usize, end: usize) -> Self {
        Self { start: start as u32, len: (end - start) as u32, of: PhantomData }
    }

    /// The positions in the table.
    pub fn range(self) -> Range<usize> {
        work::count(1 + self.len());
        self.start as usize..self.start as usize + self.len as usize
    }

    /// Whether there are none.
    pub fn is_empty(self) -> bool {
        self.len == 0
    }

    /// How many there are.
    pub fn len(self) -> usize {
        self.len as usize
    }

    /// The same elements after their table was appended to one of `offset` elements.
    pub(super) fn shifted(self, offset: u32) -> Self {
        Self { start: self.start + offset, ..self }
    }
}

impl<T> Default for Many<T> {
    fn default() -> Self {
        Self { start: 0, len: 0, of: PhantomData }
    }
}

impl<T> Clone for Many<T> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<T> Copy for Many<T> {}

impl<T> std::fmt::Debug for Many<T> {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(formatter, "{:?}", self.range())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::facts::Named;
    use crate::name::Interner;
    use crate::source::Span;

    #[test]
    fn a_range_follows_its_array() {
        let name = Interner::default().intern("a");
        let named = |number: u32| Named { name, span: Span::at(number as usize) };
        let mut parts = Parts { named: vec![named(1), named(2)], ..Parts::default() };
        let start = parts.named.len();
        parts.named.extend([named(3), named(4)]);
        let many: Many<Named> = Many::since(start, &parts);
        assert_eq!(many.of(&parts), [named(3), named(4)]);
        parts.named.splice(0..0, (10..20).map(named));
        assert_eq!(many.shifted(10).of(&parts), [named(3), named(4)]);
        assert!(Many::<Named>::default().is_empty());
    }
}
