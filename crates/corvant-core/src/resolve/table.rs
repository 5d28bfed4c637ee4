//! Several things for each name, in two flat arrays.

use crate::name::Name;
use crate::work;

/// For each name a list of things (services, nodes), in the order they were given.
#[derive(Debug)]
pub struct Table<T> {
    starts: Vec<u32>,
    things: Vec<T>,
}

impl<T: Copy + Default> Table<T> {
    /// A table over all names below `bound`. `pairs` is run twice: to count, then to fill.
    pub fn new<I: Iterator<Item = (Name, T)>>(bound: usize, pairs: impl Fn() -> I) -> Self {
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
        for (name, thing) in pairs() {
            let at = &mut next[name.index()];
            things[*at as usize] = thing;
            *at += 1;
        }
        Self { starts, things }
    }

    /// The things of a name.
    pub fn get(&self, name: Name) -> &[T] {
        let start = self.starts[name.index()] as usize;
        let things = &self.things[start..self.starts[name.index() + 1] as usize];
        work::count(1 + things.len());
        things
    }
}
