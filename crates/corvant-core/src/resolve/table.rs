//! Several services for each name, in two flat arrays.

use crate::name::Name;
use crate::wiring::ServiceIndex;

/// For each name a list of services, in the order they were given.
#[derive(Debug)]
pub struct Table {
    starts: Vec<u32>,
    services: Vec<ServiceIndex>,
}

impl Table {
    /// A table over all names below `bound`. `pairs` is run twice: to count, then to fill.
    pub fn new<I: Iterator<Item = (Name, ServiceIndex)>>(bound: usize, pairs: impl Fn() -> I) -> Self {
        let mut starts = vec![0_u32; bound + 1];
        for (name, _) in pairs() {
            starts[name.index() + 1] += 1;
        }
        let mut sum = 0;
        for start in &mut starts {
            sum += *start;
            *start = sum;
        }
        let mut services = vec![ServiceIndex(0); sum as usize];
        let mut next = starts.clone();
        for (name, service) in pairs() {
            let at = &mut next[name.index()];
            services[*at as usize] = service;
            *at += 1;
        }
        Self { starts, services }
    }

    /// The services of a name.
    pub fn get(&self, name: Name) -> &[ServiceIndex] {
        let start = self.starts[name.index()] as usize;
        &self.services[start..self.starts[name.index() + 1] as usize]
    }
}
