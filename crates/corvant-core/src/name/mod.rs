//! Interned names: every id, type, contract, tag, key and setting is a `u32` after reading.
//!
//! The names of a few files at a time come out of an [`Interner`] of their own, whose table fits into the caches.
//! When all files are read, [`Interner::merge`] makes one of them all, each thread a part of it, and says what each
//! name is called from then on. Frozen into [`Names`], it is only looked things up in. [`Name`] has no order on
//! purpose: whatever must be in order is ordered by text or by place.

mod merge;

pub use merge::Renaming;

use crate::work;
use foldhash::fast::FixedState;
use hashbrown::HashTable;
use std::hash::BuildHasher;
use std::num::NonZeroU32;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// The text that no name in any file has.
const NOTHING: &str = "";

const HASHER: FixedState = FixedState::with_seed(0);

/// One distinct text. Equal texts have equal names; there is no order.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Name(NonZeroU32);

impl Name {
    /// A small number, dense enough to index an array of [`Names::bound`] elements.
    pub fn index(self) -> usize {
        self.0.get() as usize - 1
    }

    /// The name of an index.
    pub(crate) fn at(index: usize) -> Self {
        let number = u32::try_from(index + 1).expect("fewer than 2^32 distinct names");
        Self(NonZeroU32::new(number).expect("one is added"))
    }

    /// The name of an entry in one of so many shards.
    fn new(shard: usize, entry: usize, shards: usize) -> Self {
        Self::at(entry * shards + shard)
    }

    /// In which of so many shards it is, and which entry there.
    fn place(self, shards: usize) -> (usize, usize) {
        (self.index() & (shards - 1), self.index() >> shards.trailing_zeros())
    }
}

/// A name as the table knows it: where its text stands is found without asking `ends`. Few other names have its
/// mark, so texts are hardly compared in vain, nor looked at to make the table larger.
#[derive(Clone, Debug)]
struct KnownName {
    mark: u32,
    entry: u32,
    start: u32,
    len: u32,
}

impl KnownName {
    fn text<'text>(&self, all: &'text str) -> &'text str {
        &all[self.start as usize..][..self.len as usize]
    }

    /// The mark, spread over all the bits by which a table places it.
    fn place(mark: u32) -> u64 {
        u64::from(mark).wrapping_mul(0x9E37_79B9_7F4A_7C15)
    }
}

#[derive(Clone, Default, Debug)]
struct Shard {
    table: HashTable<KnownName>,
    ends: Vec<u32>,
    text: String,
}

impl Shard {
    fn text(&self, entry: usize) -> &str {
        let start = if entry == 0 { 0 } else { self.ends[entry - 1] as usize };
        &self.text[start..self.ends[entry] as usize]
    }

    fn find(&self, hash: u64, text: &str) -> Option<usize> {
        let mark = hash as u32;
        let is_it = |known: &KnownName| {
            known.mark == mark && known.len as usize == text.len() && known.text(&self.text) == text
        };
        self.table.find(KnownName::place(mark), is_it).map(|known| known.entry as usize)
    }

    fn find_or_add(&mut self, hash: u64, text: &str) -> usize {
        if let Some(entry) = self.find(hash, text) {
            return entry;
        }
        let (mark, entry) = (hash as u32, self.ends.len());
        let (start, len) = (self.text.len() as u32, text.len() as u32);
        self.text.push_str(text);
        self.ends.push(u32::try_from(self.text.len()).expect("less than 4 GiB of distinct names"));
        let known = KnownName { mark, entry: entry as u32, start, len };
        self.table.insert_unique(KnownName::place(mark), known, |other| KnownName::place(other.mark));
        entry
    }
}

/// Gives every distinct text its [`Name`].
#[derive(Debug)]
pub struct Interner {
    /// One, or as many as what was merged is spread over: a power of two.
    shards: Vec<Mutex<Shard>>,
}

impl Default for Interner {
    fn default() -> Self {
        Self { shards: vec![Mutex::default()] }
    }
}

impl Interner {
    /// The name of `text`, new or known.
    pub fn intern(&self, text: &str) -> Name {
        self.intern_hashed(HASHER.hash_one(text), text)
    }

    fn intern_hashed(&self, hash: u64, text: &str) -> Name {
        let shard = shard_of(hash, self.shards.len());
        let entry = self.shard(shard).find_or_add(hash, text);
        Name::new(shard, entry, self.shards.len())
    }

    /// The text of a name that this interner gave.
    pub fn text(&self, name: Name) -> String {
        let (shard, entry) = name.place(self.shards.len());
        self.shard(shard).text(entry).to_owned()
    }

    fn is_empty(&self) -> bool {
        (0..self.shards.len()).all(|shard| self.shard(shard).ends.is_empty())
    }

    fn shard(&self, shard: usize) -> MutexGuard<'_, Shard> {
        self.shards[shard].lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Ends the giving of names; from here on they are only looked up.
    pub fn freeze(self) -> Names {
        self.intern(NOTHING);
        let shards =
            self.shards.into_iter().map(|shard| shard.into_inner().unwrap_or_else(PoisonError::into_inner));
        Names { shards: shards.collect() }
    }
}

/// The interner as one file's reader asks it. Most names of a file stand in it several times, and to remember
/// them costs less than to ask again.
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
    /// A name that nothing has.
    ///
    /// # Panics
    ///
    /// Never: it is given its name when the others are frozen.
    pub fn nothing(&self) -> Name {
        self.find(NOTHING).expect("it was given a name when the others were frozen")
    }

    /// The text of a name that came from the interner this was frozen from.
    pub fn text(&self, name: Name) -> &str {
        work::count(1);
        let (shard, entry) = name.place(self.shards.len());
        self.shards[shard].text(entry)
    }

    /// The name of `text`, if any file holds it.
    pub fn find(&self, text: &str) -> Option<Name> {
        let hash = HASHER.hash_one(text);
        let shard = shard_of(hash, self.shards.len());
        self.shards[shard].find(hash, text).map(|entry| Name::new(shard, entry, self.shards.len()))
    }

    /// An interner that has given all of these names already.
    pub fn thaw(&self) -> Interner {
        Interner { shards: self.shards.iter().map(|shard| Mutex::new(shard.clone())).collect() }
    }

    /// All names that were given.
    pub(crate) fn all(&self) -> impl Iterator<Item = Name> {
        let count = self.shards.len();
        let shards = self.shards.iter().enumerate();
        shards.flat_map(move |(number, shard)| {
            (0..shard.ends.len()).map(move |entry| Name::new(number, entry, count))
        })
    }

    /// Whether all names of others are names here, and stand for the same.
    pub fn begins_with(&self, others: &Self) -> bool {
        let begins = |(own, other): (&Shard, &Shard)| {
            own.ends.starts_with(&other.ends) && own.text.starts_with(&other.text)
        };
        self.shards.len() == others.shards.len() && self.shards.iter().zip(&others.shards).all(begins)
    }

    /// One more than the largest [`Name::index`].
    pub fn bound(&self) -> usize {
        self.shards.iter().map(|shard| shard.ends.len()).max().unwrap_or(0) * self.shards.len()
    }
}

fn shard_of(hash: u64, shards: usize) -> usize {
    // The low half of the hash is the mark by which a shard finds the name.
    (hash >> 32) as usize & (shards - 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_thawed_goes_on_where_it_was_frozen() {
        let interner = Interner::default();
        let old = interner.intern("depot.yard");
        let frozen = interner.freeze();
        let thawed = frozen.thaw();
        assert_eq!(thawed.intern("depot.yard"), old);
        let new = thawed.intern("depot.gate");
        assert_eq!((thawed.text(new).as_str(), frozen.find("depot.gate")), ("depot.gate", None));
    }

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
