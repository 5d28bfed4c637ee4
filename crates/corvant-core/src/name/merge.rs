//! One interner out of many.
//!
//! Names are sorted by the shard that they go to, then each shard takes its own from all interners, one after
//! another: what it looks things up in stays in the cache, and what it reads lies in a row. To ask one large table
//! for every name of every file took five times as long.

use super::{HASHER, Interner, Name, Names, Shard, shard_of};
use rayon::prelude::*;
use std::hash::BuildHasher;
use std::sync::{Mutex, PoisonError};

/// Parts of the interner of a whole workspace. With a million services each still fits into a cache.
const SHARDS: usize = 128;

/// What the names of one interner are called in the one that it was merged into.
#[derive(Debug, Default)]
pub struct Renaming(Option<Vec<Name>>);

impl Renaming {
    /// What a name is called now.
    pub fn of(&self, name: Name) -> Name {
        self.0.as_ref().map_or(name, |names| names[name.index()])
    }

    /// Whether every name is called what it was.
    pub(crate) fn changes_nothing(&self) -> bool {
        self.0.is_none()
    }
}

impl Interner {
    /// One interner with all the names of others, and for each of those what its names are called from now on. The
    /// order of the others decides that, not the number of threads. The first that came out of others itself keeps the
    /// names that it gave.
    pub fn merge(mut others: Vec<Self>) -> (Self, Vec<Renaming>) {
        let mut with_names = (0..others.len()).filter(|&other| !others[other].is_empty());
        if let (Some(only), None) = (with_names.next(), with_names.next()) {
            let renamings = others.iter().map(|_| Renaming::default()).collect();
            return (others.swap_remove(only), renamings);
        }
        let base = others.iter().position(|other| other.shards.len() == SHARDS);
        let known = base.map_or_else(Self::spread, |base| std::mem::take(&mut others[base]));
        let mut batches: Vec<Batch> =
            others.into_par_iter().map(|other| Batch::new(&other.freeze())).collect();
        let mut counts = vec![0; SHARDS];
        for batch in &mut batches {
            batch.firsts.clone_from(&counts);
            for (shard, count) in counts.iter_mut().enumerate() {
                *count += batch.starts[shard + 1] - batch.starts[shard];
            }
        }
        let merged = |(number, (shard, count))| take_all(shard, (number, count), &batches);
        let shards = known.shards.into_par_iter().zip(counts).enumerate();
        let (shards, names): (Vec<_>, Vec<_>) = shards.map(merged).unzip();
        let mut renamings: Vec<Renaming> = batches.par_iter().map(|batch| batch.renaming(&names)).collect();
        if let Some(base) = base {
            renamings[base] = Renaming::default();
        }
        (Self { shards }, renamings)
    }

    /// One that has given no names, as it comes out of others.
    fn spread() -> Self {
        Self { shards: std::iter::repeat_with(Mutex::default).take(SHARDS).collect() }
    }
}

/// The shard of a number with all that it takes out of the batches, in their order, and the so many names of that.
fn take_all(
    shard: Mutex<Shard>,
    (number, count): (usize, usize),
    batches: &[Batch],
) -> (Mutex<Shard>, Vec<Name>) {
    let mut shard = shard.into_inner().unwrap_or_else(PoisonError::into_inner);
    let mut names = Vec::with_capacity(count);
    for batch in batches {
        for at in batch.starts[number]..batch.starts[number + 1] {
            let entry = shard.find_or_add(batch.names[at].0, batch.text(at));
            names.push(Name::new(number, entry, SHARDS));
        }
    }
    (Mutex::new(shard), names)
}

/// The names of one interner, in the order of the shards that they go to.
struct Batch {
    /// Hash, and number in the interner that it comes from.
    names: Vec<(u64, u32)>,
    text: String,
    ends: Vec<usize>,
    /// By shard where its names begin; one more for the end.
    starts: Vec<usize>,
    /// By shard how many names the batches before this one have for it.
    firsts: Vec<usize>,
    bound: usize,
}

impl Batch {
    fn new(from: &Names) -> Self {
        let texts = || {
            let shards = from.shards.iter().enumerate();
            shards.flat_map(|(shard, known)| (0..known.ends.len()).map(move |entry| (shard, entry)))
        };
        let hashes: Vec<u64> =
            texts().map(|(shard, entry)| HASHER.hash_one(from.shards[shard].text(entry))).collect();
        let mut starts = vec![0; SHARDS + 1];
        for &hash in &hashes {
            starts[shard_of(hash, SHARDS) + 1] += 1;
        }
        for shard in 0..SHARDS {
            starts[shard + 1] += starts[shard];
        }
        let mut names = vec![(0, 0); hashes.len()];
        let mut next = starts.clone();
        for (&hash, place) in hashes.iter().zip(texts()) {
            let at = &mut next[shard_of(hash, SHARDS)];
            names[*at] = (hash, Name::new(place.0, place.1, from.shards.len()).index() as u32);
            *at += 1;
        }
        let mut batch = Self {
            text: String::with_capacity(from.shards.iter().map(|shard| shard.text.len()).sum()),
            ends: Vec::with_capacity(names.len()),
            names,
            starts,
            firsts: Vec::new(),
            bound: from.bound(),
        };
        for &(_, number) in &batch.names {
            let (shard, entry) = (number as usize % from.shards.len(), number as usize / from.shards.len());
            batch.text.push_str(from.shards[shard].text(entry));
            batch.ends.push(batch.text.len());
        }
        batch
    }

    fn text(&self, at: usize) -> &str {
        let start = if at == 0 { 0 } else { self.ends[at - 1] };
        &self.text[start..self.ends[at]]
    }

    /// What the names are called, out of what each shard calls all that it took.
    fn renaming(&self, names: &[Vec<Name>]) -> Renaming {
        // Numbers that are no name's are never asked for.
        let mut renamed = vec![Name::new(0, 0, SHARDS); self.bound];
        for (shard, names) in names.iter().enumerate() {
            let own = &self.names[self.starts[shard]..self.starts[shard + 1]];
            for (&(_, number), &name) in own.iter().zip(&names[self.firsts[shard]..]) {
                renamed[number as usize] = name;
            }
        }
        Renaming(Some(renamed))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Texts of which the interners share some: every file names the clock, and half of the trams are in two.
    fn texts(file: usize) -> Vec<String> {
        let trams = file * 50..file * 50 + 100;
        trams.map(|tram| format!("vehicles.tram-{tram}")).chain(["clock".to_owned(), String::new()]).collect()
    }

    #[rstest]
    #[case::none(0)]
    #[case::one(1)]
    #[case::many(40)]
    fn a_renamed_name_has_the_text_it_had_and_equal_texts_one_name(#[case] files: usize) {
        let mut given = Vec::new();
        let mut interners = Vec::new();
        for file in 0..files {
            // One that was merged before may be merged again.
            let interner = match file % 3 {
                0 => Interner::merge(Vec::new()).0,
                _ => Interner::default(),
            };
            given.push(texts(file).iter().map(|text| interner.intern(text)).collect::<Vec<Name>>());
            interners.push(interner);
        }
        let (merged, renamings) = Interner::merge(interners);
        let later = merged.intern("clock");
        let new = merged.intern("depot.gate");
        assert_eq!(merged.text(new), "depot.gate");
        let names = merged.freeze();
        for (file, (given, renaming)) in given.iter().zip(&renamings).enumerate() {
            for (&name, text) in given.iter().zip(texts(file)) {
                let renamed = renaming.of(name);
                assert_eq!(names.text(renamed), text);
                assert_eq!(names.find(&text), Some(renamed));
                assert_eq!(renamed == later, text == "clock");
            }
        }
        assert_eq!(names.find("vehicles.tram-none"), None);
    }

    #[test]
    fn the_only_one_with_names_stays_as_it_is() {
        let [empty, only, other] = [(); 3].map(|()| Interner::default());
        let name = only.intern("clock");
        let (merged, renamings) = Interner::merge(vec![empty, only, other]);
        assert!(renamings.len() == 3 && renamings.iter().all(Renaming::changes_nothing));
        assert_eq!((merged.text(renamings[1].of(name)).as_str(), merged.intern("clock")), ("clock", name));
    }

    #[test]
    fn what_was_merged_before_keeps_its_names() {
        let frozen = Interner::merge(vec![Interner::default(), Interner::default()]).0.freeze();
        assert!(!frozen.begins_with(&Interner::merge((0..2).map(of_file).collect()).0.freeze()));
        let (first, _) = Interner::merge((0..3).map(of_file).collect());
        let first = first.freeze();
        let (both, renamings) = Interner::merge(vec![of_file(9), first.thaw(), of_file(1)]);
        assert!(renamings[1].changes_nothing() && !renamings[0].changes_nothing());
        let both = both.freeze();
        for text in (0..3).flat_map(texts) {
            assert_eq!(both.find(&text), first.find(&text));
        }
        assert!(both.find("vehicles.tram-460").is_some() && first.find("vehicles.tram-460").is_none());
        assert!(both.begins_with(&first) && !first.begins_with(&both));
    }

    fn of_file(file: usize) -> Interner {
        let interner = Interner::default();
        for text in texts(file) {
            interner.intern(&text);
        }
        interner
    }

    #[test]
    fn the_number_of_threads_does_not_matter() {
        let numbers = |threads: usize| {
            let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
            let interners = (0..30).map(of_file).collect();
            let (merged, _) = pool.install(|| Interner::merge(interners));
            let names = merged.freeze();
            (0..30).flat_map(texts).map(|text| names.find(&text).unwrap().index()).collect::<Vec<_>>()
        };
        assert_eq!(numbers(1), numbers(4));
    }
}
