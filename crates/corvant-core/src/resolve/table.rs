//! Several things for each name, in two flat arrays.

use crate::name::Name;
use crate::work;

/// For each name a list of things (services, nodes), in the order they were given.
#[derive(Debug)]
pub(crate) struct Table<T> {
    starts: Vec<u32>,
    things: Vec<T>,
}

impl<T: Copy + Default + PartialEq> Table<T> {
    /// A table over all names below `bound`. `pairs` is run twice: to count, then to fill. What comes again for the
    /// same name straight after itself is there once.
    pub(crate) fn new<I: Iterator<Item = (Name, T)>>(bound: usize, pairs: impl Fn() -> I) -> Self {
        let mut starts = vec![0_u32; bound + 1];
        for (name, _) in pairs() {
            starts[name.index() + 1] += 1;
        }
        let mut sum = 0;
        for start in &mut starts {
            sum += *start;
            *start = sum;
        }
        let mut things = vec![T::default(); sum as usize];
        let mut next = starts.clone();
        let mut is_whole = true;
        for (name, thing) in pairs() {
            let (start, at) = (starts[name.index()], &mut next[name.index()]);
            if *at > start && things[*at as usize - 1] == thing {
                is_whole = false;
                continue;
            }
            things[*at as usize] = thing;
            *at += 1;
        }
        if !is_whole {
            close_ranks(&mut starts, &next, &mut things);
        }
        Self { starts, things }
    }

    /// The things of a name.
    pub(crate) fn get(&self, name: Name) -> &[T] {
        let start = self.starts[name.index()] as usize;
        let things = &self.things[start..self.starts[name.index() + 1] as usize];
        work::count(1 + things.len());
        things
    }
}

/// Moves things together where fewer were filled in than were counted; `ends` says how far each name's go.
fn close_ranks<T: Copy>(starts: &mut [u32], ends: &[u32], things: &mut Vec<T>) {
    let mut to = 0;
    for name in 0..ends.len() - 1 {
        let from = starts[name] as usize..ends[name] as usize;
        starts[name] = to as u32;
        to += from.len();
        things.copy_within(from.clone(), to - from.len());
    }
    starts[ends.len() - 1] = to as u32;
    things.truncate(to);
}
