//! Ranges in flat arrays.

use crate::work;
use std::marker::PhantomData;
use std::ops::Range;

/// Several `T`s: a range in the flat array of `T`s, eight bytes in all.
pub struct Many<T> {
    start: u32,
    len: u32,
    of: PhantomData<fn() -> T>,
}

impl<T> Many<T> {
    /// The elements that were pushed onto `table` since it had `start` elements.
    pub fn since(start: usize, table: &[T]) -> Self {
        Self { start: start as u32, len: (table.len() - start) as u32, of: PhantomData }
    }

    /// The elements, out of their table.
    pub fn of(self, table: &[T]) -> &[T] {
        &table[self.range()]
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

    #[test]
    fn a_range_follows_its_table() {
        let mut table = vec![1, 2];
        let start = table.len();
        table.extend([3, 4, 5]);
        let many = Many::since(start, &table);
        assert_eq!(many.of(&table), [3, 4, 5]);
        let mut larger = vec![9; 10];
        larger.extend(&table);
        assert_eq!(many.shifted(10).of(&larger), [3, 4, 5]);
        assert!(Many::<u8>::default().is_empty());
    }
}
