//! The order in which nodes of a picture are built, for rows and columns of matrices.

use corvant_core::answers::picture::{Picture, Sort};
use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

/// Sets of nodes, what is needed before what needs it, ties by number; those that need one another are one set.
pub(crate) fn build_order(picture: &Picture) -> Vec<Vec<usize>> {
    let group_of = picture.cycle_group_of();
    let mut set_of = vec![usize::MAX; picture.nodes.len()];
    let mut sets: Vec<Vec<usize>> = Vec::new();
    for node in 0..picture.nodes.len() {
        if set_of[node] != usize::MAX {
            continue;
        }
        let members = match group_of[node] {
            Some(group) => within(picture, &picture.cycle_groups[group]),
            None => vec![node],
        };
        for &member in &members {
            set_of[member] = sets.len();
        }
        sets.push(members);
    }
    let mut needed_by: BTreeMap<usize, BTreeSet<usize>> = BTreeMap::new();
    let mut missing = vec![0_usize; sets.len()];
    // A question says who may be meant: it is no need.
    for line in picture.edges.iter().filter(|line| picture.nodes[line.from].sort != Sort::Question) {
        let (from, to) = (set_of[line.from], set_of[line.to]);
        if from != to && needed_by.entry(to).or_default().insert(from) {
            missing[from] += 1;
        }
    }
    let ready = (0..sets.len()).filter(|&set| missing[set] == 0).map(Reverse);
    let mut ready: BinaryHeap<Reverse<usize>> = ready.collect();
    let mut order = Vec::with_capacity(sets.len());
    while let Some(Reverse(set)) = ready.pop() {
        for &user in needed_by.get(&set).into_iter().flatten() {
            missing[user] -= 1;
            if missing[user] == 0 {
                ready.push(Reverse(user));
            }
        }
        order.push(std::mem::take(&mut sets[set]));
    }
    // What a question closes to a circle is left.
    order.extend(sets.into_iter().filter(|set| !set.is_empty()));
    order
}

/// The members of a cycle group in an order that few of their needs break: who needs few and is needed by many is first.
///
/// After P. Eades, X. Lin and W. F. Smyth, "A fast and effective heuristic for the feedback arc set problem" (1993).
pub(crate) fn within(picture: &Picture, members: &[usize]) -> Vec<usize> {
    let mut left = Left::new(picture, members);
    let (mut first, mut last) = (Vec::new(), Vec::new());
    while let Some((node, is_first)) = left.next() {
        let end = if is_first { &mut first } else { &mut last };
        end.push(node);
        left.take(node);
    }
    first.extend(last.into_iter().rev());
    first
}

/// The members that have no place yet, and how many of the others each needs and is needed by.
struct Left {
    needs: BTreeMap<usize, Vec<usize>>,
    users: BTreeMap<usize, Vec<usize>>,
    counts: BTreeMap<usize, (usize, usize)>,
    /// By whether they need none, are needed by none, and how much more they are needed than they need.
    queue: BTreeSet<(bool, bool, isize, usize)>,
}

impl Left {
    fn new(picture: &Picture, members: &[usize]) -> Self {
        let mut counts: BTreeMap<usize, (usize, usize)> =
            members.iter().map(|&member| (member, (0, 0))).collect();
        let (mut needs, mut users) = (BTreeMap::new(), BTreeMap::new());
        for line in &picture.edges {
            if line.from != line.to && counts.contains_key(&line.from) && counts.contains_key(&line.to) {
                needs.entry(line.from).or_insert_with(Vec::new).push(line.to);
                users.entry(line.to).or_insert_with(Vec::new).push(line.from);
                counts.entry(line.from).or_default().0 += 1;
                counts.entry(line.to).or_default().1 += 1;
            }
        }
        let queue = counts.iter().map(|(&node, &counts)| Self::key(node, counts)).collect();
        Self { needs, users, counts, queue }
    }

    fn key(node: usize, (needs, users): (usize, usize)) -> (bool, bool, isize, usize) {
        (needs > 0, users > 0, needs.cast_signed() - users.cast_signed(), node)
    }

    /// The next to get a place, and whether at the beginning.
    fn next(&self) -> Option<(usize, bool)> {
        let &(has_needs, _, _, node) = self.queue.first()?;
        if has_needs {
            let useless = self.queue.range((true, false, isize::MIN, 0)..(true, true, isize::MIN, 0)).next();
            if let Some(&(_, _, _, useless)) = useless {
                return Some((useless, false));
            }
        }
        Some((node, true))
    }

    fn take(&mut self, node: usize) {
        let Some(counts) = self.counts.remove(&node) else { return };
        self.queue.remove(&Self::key(node, counts));
        let users = self.users.remove(&node).unwrap_or_default();
        let needs = self.needs.remove(&node).unwrap_or_default();
        for user in users {
            self.change(user, |counts| counts.0 -= 1);
        }
        for needed in needs {
            self.change(needed, |counts| counts.1 -= 1);
        }
    }

    fn change(&mut self, node: usize, change: impl FnOnce(&mut (usize, usize))) {
        let Some(counts) = self.counts.get_mut(&node) else { return };
        self.queue.remove(&Self::key(node, *counts));
        change(counts);
        self.queue.insert(Self::key(node, *counts));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drawn::made::picture;

    #[test]
    fn what_is_needed_comes_first_and_groups_stay_together() {
        let picture = picture(4, &[(0, 1), (1, 2), (2, 1), (2, 3)], &[vec![1, 2]]);
        assert_eq!(build_order(&picture), [vec![3], vec![1, 2], vec![0]]);
    }

    #[test]
    fn few_needs_break_the_order_of_a_group() {
        // All need the one before; one need closes the circle.
        let edges: Vec<(usize, usize)> = (1..6).map(|node| (node, node - 1)).chain([(0, 5)]).collect();
        let picture = picture(6, &edges, &[(0..6).collect()]);
        let order = within(&picture, &picture.cycle_groups[0]);
        let place = |node: usize| order.iter().position(|&one| one == node).unwrap();
        let breaking = edges.iter().filter(|&&(from, to)| place(to) > place(from)).count();
        assert_eq!(breaking, 1, "{order:?}");
    }
}
