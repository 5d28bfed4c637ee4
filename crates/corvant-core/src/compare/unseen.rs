//! What could not be seen in one of two states, or in both.

use crate::finding::{BlindSpot, BlindSpotKind};
use crate::word::words;
use foldhash::HashSet;

words! {
    /// In which of two states something is so.
    Which {
        /// In the state before.
        Old "old"
        /// In the state now.
        New "new"
        /// In both.
        Both "both"
    }
}

/// Something that could not be seen: what is new or gone because of it cannot be told.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Unseen {
    /// In which state.
    pub state: Which,
    /// What it is, without its places: those are in files of one of two states.
    pub spot: BlindSpot,
}

/// What could not be seen in either state: first what was not seen before.
pub(super) fn unseen(old: &[BlindSpot], new: &[BlindSpot]) -> Vec<Unseen> {
    fn key(spot: &BlindSpot) -> (BlindSpotKind, &str, &str) {
        (spot.kind, &spot.subject, &spot.message)
    }
    let (was, is): (HashSet<_>, HashSet<_>) = (old.iter().map(key).collect(), new.iter().map(key).collect());
    let told =
        |state, spot: &BlindSpot| Unseen { state, spot: BlindSpot { places: Vec::new(), ..spot.clone() } };
    let before =
        old.iter().map(|spot| told(if is.contains(&key(spot)) { Which::Both } else { Which::Old }, spot));
    let now = new.iter().filter(|spot| !was.contains(&key(spot))).map(|spot| told(Which::New, spot));
    before.chain(now).collect()
}
