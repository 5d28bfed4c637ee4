//! Interned names: every id, type, contract, tag, key and setting is a `u32` after reading.
//!
//! Readers on many threads share one [`Interner`]; when all are done it is frozen into [`Names`], which
//! everything later in the line only looks things up in. Which number a name gets depends on threads, so
//! [`Name`] has no order on purpose: whatever must be in order is ordered by text or by place.

use crate::work;
use foldhash::fast::FixedState;
use hashbrown::HashTable;
use std::hash::BuildHasher;
use std::num::NonZeroU32;
use std::sync::{Mutex, PoisonError};

const SHARDS: usize = 64;
const HASHER: FixedState = FixedState::with_seed(0);

/// One distinct text. Equal texts have equal names; there is no order.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Name(NonZeroU32);

impl Name {
    /// A small number, dense enough to index an array of [`Names::bound`] elements.
    pub fn index(self) -> usize {
        self.0.get() as usize - 1
    }

    fn new(shard: usize, entry: usize) -> Self {
        let number = u32::try_from(entry * SHARDS + shard + 1).expect("fewer than 2^32 distinct names");
        Self(NonZeroU32::new(number).expect("one is added"))
    }

    fn shard(self) -> usize {
        self.index() % SHARDS
    }

    fn entry(self) -> usize {
        self.index() / SHARDS
    }
}

/// A name as the table knows it: where its text stands is found without asking `ends`.
#[derive(Debug)]
struct Known {
    entry: u32,
    start: u32,
    len: u32,
}

impl Known {
    fn text<'text>(&self, all: &'text str) -> &'text str {
        &all[self.start as usize..][..self.len as usize]
    }
}

#[derive(Default, Debug)]
struct Shard {
    table: HashTable<Known>,
    ends: Vec<u32>,
    text: String,
}

impl Shard {
    fn text(&self, entry: usize) -> &str {
        let start = if entry == 0 { 0 } else { self.ends[entry - 1] as usize };
        &self.text[start..self.ends[entry] as usize]
    }

    fn find(&self, hash: u64, text: &str) -> Option<usize> {
        let is_it = |known: &Known| known.len as usize == text.len() && known.text(&self.text) == text;
        self.table.find(hash, is_it).map(|known| known.entry as usize)
    }

    fn add(&mut self, hash: u64, text: &str) -> usize {
        let entry = self.ends.len();
        let known = Known { entry: entry as u32, start: self.text.len() as u32, len: text.len() as u32 };
        self.text.push_str(text);
        self.ends.push(u32::try_from(self.text.len()).expect("less than 256 GiB of distinct names"));
        let Self { table, text: all, .. } = self;
        table.insert_unique(hash, known, |other| HASHER.hash_one(other.text(all)));
        entry
    }
}

/// Gives every distinct text its [`Name`]; shared by all reading threads.
#[derive(Debug)]
pub struct Interner {
    shards: Vec<Mutex<Shard>>,
}

impl Default for Interner {
    fn default() -> Self {
        Self { shards: (0..SHARDS).map(|_| Mutex::default()).collect() }
    }
}

impl Interner {
    /// The name of `text`, new or known.
    pub fn intern(&self, text: &str) -> Name {
        self.intern_hashed(HASHER.hash_one(text), text)
    }

    fn intern_hashed(&self, hash: u64, text: &str) -> Name {
        let shard_index = shard_of(hash);
        let mut shard = self.shards[shard_index].lock().unwrap_or_else(PoisonError::into_inner);
        let entry = shard.find(hash, text).unwrap_or_else(|| shard.add(hash, text));
        Name::new(shard_index, entry)
    }

    /// The text of a name that this interner gave.
    pub fn text(&self, name: Name) -> String {
        let shard = self.shards[name.shard()].lock().unwrap_or_else(PoisonError::into_inner);
        shard.text(name.entry()).to_owned()
    }

    /// Ends the giving of names; from here on they are only looked up.
    pub fn freeze(self) -> Names {
        let shards =
            self.shards.into_iter().map(|shard| shard.into_inner().unwrap_or_else(PoisonError::into_inner));
        Names { shards: shards.collect() }
    }
}

/// The interner as one file's reader asks it. Most names of a file stand in it several times, and to remember
/// them costs less than to ask what all threads share and no cache holds.
#[derive(Debug)]
pub struct Recent<'a> {
    interner: &'a Interner,
    /// By the low part of its hash the last name that was asked for.
    last: Vec<Option<(u64, &'a str, Name)>>,
}

const RECENT: usize = 128;

impl<'a> Recent<'a> {
    /// Nothing asked yet.
    pub fn new(interner: &'a Interner) -> Self {
        Self { interner, last: vec![None; RECENT] }
    }

    /// The name of `text`, new or known.
    pub fn intern(&mut self, text: &'a str) -> Name {
        let hash = HASHER.hash_one(text);
        let last = &mut self.last[hash as usize % RECENT];
        if let Some((known, same, name)) = *last
            && known == hash
            && same == text
        {
            return name;
        }
        let name = self.interner.intern_hashed(hash, text);
        *last = Some((hash, text, name));
        name
    }
}

/// All names of a workspace, for looking up only.
#[derive(Debug)]
pub struct Names {
    shards: Vec<Shard>,
}

impl Names {
    /// The text of a name that came from the interner this was frozen from.
    pub fn text(&self, name: Name) -> &str {
        work::count(1);
        self.shards[name.shard()].text(name.entry())
    }

    /// The name of `text`, if any file holds it.
    pub fn find(&self, text: &str) -> Option<Name> {
        let hash = HASHER.hash_one(text);
        let shard = shard_of(hash);
        self.shards[shard].find(hash, text).map(|entry| Name::new(shard, entry))
    }

    /// One more than the largest [`Name::index`].
    pub fn bound(&self) -> usize {
        self.shards.iter().map(|shard| shard.ends.len()).max().unwrap_or(0) * SHARDS
    }
}

fn shard_of(hash: u64) -> usize {
    // The table uses the top bits and the low bits of the hash; the middle is free to choose a shard.
    (hash >> 32) as usize % SHARDS
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_texts_share_one_name_and_keep_their_text() {
        let interner = Interner::default();
        let texts: Vec<String> = (0..5_000).map(|number| format!("vehicles.tram-{number}")).collect();
        let names: Vec<Name> = texts.iter().map(|text| interner.intern(text)).collect();
        let again: Vec<Name> = texts.iter().map(|text| interner.intern(text)).collect();
        assert_eq!(names, again);
        let frozen = interner.freeze();
        for (text, name) in texts.iter().zip(&names) {
            assert_eq!(frozen.text(*name), text);
            assert_eq!(frozen.find(text), Some(*name));
            assert!(name.index() < frozen.bound());
        }
        assert_eq!(frozen.find("vehicles.none"), None);
    }

    #[test]
    fn recent_names_are_those_of_the_interner() {
        let interner = Interner::default();
        let texts: Vec<String> = (0..2_000).map(|number| format!("depot.gate-{}", number % 700)).collect();
        let mut recent = Recent::new(&interner);
        for text in &texts {
            assert_eq!(recent.intern(text), interner.intern(text));
        }
    }

    #[test]
    fn the_empty_text_is_a_name_too() {
        let interner = Interner::default();
        let empty = interner.intern("");
        assert_eq!(interner.intern(""), empty);
        assert_eq!(interner.freeze().text(empty), "");
    }
}
