//! Ranges that stand in one another or apart, and which of them hold a place.

use std::ops::Range;

/// Ranges of which no two overlap but where one holds the other.
#[derive(Debug, Default)]
pub(crate) struct Nested {
    /// Outer ones before those in them; each with the number that it was given with.
    ranges: Vec<(Range<usize>, usize)>,
    /// By range the one around it.
    outer: Vec<Option<usize>>,
}

impl Nested {
    pub(crate) fn new(ranges: impl Iterator<Item = Range<usize>>) -> Self {
        let mut ranges: Vec<_> = ranges.enumerate().map(|(number, range)| (range, number)).collect();
        ranges.sort_by_key(|(range, number)| (range.start, std::cmp::Reverse(range.end), *number));
        let mut outer: Vec<Option<usize>> = Vec::with_capacity(ranges.len());
        for (at, (range, _)) in ranges.iter().enumerate() {
            let mut around = at.checked_sub(1);
            while let Some(before) = around.filter(|&before| ranges[before].0.end < range.end) {
                around = outer[before];
            }
            outer.push(around);
        }
        Self { ranges, outer }
    }

    /// The numbers of the ranges that hold another, from the inside out.
    pub(crate) fn around(&self, at: &Range<usize>) -> impl Iterator<Item = usize> + '_ {
        let end = at.end;
        let last = self.ranges.partition_point(|(range, _)| range.start <= at.start).checked_sub(1);
        let up = std::iter::successors(last, |&inner| self.outer[inner]);
        up.filter(move |&one| self.ranges[one].0.end >= end).map(|one| self.ranges[one].1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::in_the_innermost(3..4, &[2, 1, 0])]
    #[case::in_the_second(6..8, &[1, 0])]
    #[case::the_second_itself(2..8, &[1, 0])]
    #[case::behind_it(8..9, &[0])]
    #[case::in_another(12..13, &[3])]
    #[case::over_two(9..13, &[])]
    #[case::nowhere(20..21, &[])]
    fn what_holds_a_place(#[case] at: Range<usize>, #[case] expected: &[usize]) {
        let ranges = Nested::new([0..10, 2..8, 3..5, 11..15].into_iter());
        assert_eq!(ranges.around(&at).collect::<Vec<_>>(), expected);
    }
}
