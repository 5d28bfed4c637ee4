//! Flat files: keys that begin with a word for the sort, and end with one for what is said of the item.

use super::shape::{Collection, Flat, IdFrom, Leaf, Looking, Spot};
use std::collections::{BTreeMap, BTreeSet};

/// Keys that a word ends, for it to mean anything.
const MANY: usize = 5;
/// Words that stand before ids, and behind those of one sort.
const WORDS: usize = 12;

impl Looking<'_, '_> {
    /// Puts what flat keys speak of together. `false`: keys are ids as they are, or nothing.
    pub(super) fn flat(&mut self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        let keys: Vec<&str> = by_key.keys().map(String::as_str).collect();
        let mut sorts: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
        for key in &keys {
            let word = key.split_once('.').map_or("", |(word, _)| word);
            sorts.entry(word).or_default().push(&key[if word.is_empty() { 0 } else { word.len() + 1 }..]);
        }
        let bare = self.behind(&keys);
        let are_sorts = sorts.len() <= WORDS
            && sorts.iter().any(|(word, rests)| !word.is_empty() && self.asked(rests, &self.behind(rests)));
        let found: Vec<Flat> = if are_sorts {
            let flat = |(word, rests): (&str, Vec<&str>)| Flat {
                before: if word.is_empty() { String::new() } else { format!("{word}.") },
                behind: self.behind(&rests),
            };
            sorts.into_iter().map(flat).collect()
        } else if !bare.is_empty() && self.asked(&keys, &bare) {
            vec![Flat { before: String::new(), behind: bare }]
        } else {
            return false;
        };
        // Beginnings are told before what has none.
        for flat in found.iter().rev() {
            let others = found.iter().filter(|other| other.before.len() > flat.before.len());
            let others: Vec<&str> = others.map(|other| other.before.as_str()).collect();
            let is_own = |key: &&String| {
                key.starts_with(&flat.before) && !others.iter().any(|before| key.starts_with(before))
            };
            let keys = by_key.keys().filter(is_own);
            let spots: Vec<Spot> = keys.flat_map(|key| by_key[key].iter().copied()).collect();
            self.collect_flat(flat, &spots);
        }
        true
    }

    /// Words behind ids: what stands before them is mostly a key itself or asked for, and they are hardly ever part of what is.
    fn behind(&self, keys: &[&str]) -> BTreeSet<String> {
        let known: BTreeSet<&str> = keys.iter().copied().collect();
        let mut by_word: BTreeMap<&str, Vec<(&str, &str)>> = BTreeMap::new();
        for key in keys {
            if let Some((stem, word)) = key.rsplit_once('.') {
                by_word.entry(word).or_default().push((key, stem));
            }
        }
        let counts = |found: &[(&str, &str)]| {
            let ids =
                found.iter().filter(|(_, stem)| known.contains(stem) || self.names.is_used(stem)).count();
            (ids, found.iter().filter(|(key, _)| self.names.is_used(key)).count())
        };
        let is_told = |found: &[(&str, &str)]| {
            let (ids, parts) = counts(found);
            found.len() > 1 && ids * 2 > found.len() && parts * 5 < found.len()
        };
        let has_words = by_word.values().any(|found| is_told(found));
        // Beside such words others are too that stand behind many names, though nobody asks for those.
        let is_word = |found: &[(&str, &str)]| {
            is_told(found) || has_words && found.len() >= MANY && counts(found).1 == 0
        };
        by_word.retain(|_, found| is_word(found));
        if by_word.len() > WORDS {
            let most = by_word.values().map(Vec::len).max().unwrap_or_default();
            by_word.retain(|_, found| found.len() * 20 > most);
        }
        by_word.into_keys().map(str::to_owned).collect()
    }

    /// Whether several of what keys speak of is asked for, and a good part of it.
    fn asked(&self, keys: &[&str], behind: &BTreeSet<String>) -> bool {
        let flat = Flat { before: String::new(), behind: behind.clone() };
        let stems: BTreeSet<&str> = keys.iter().map(|key| flat.split(key).0).collect();
        let used = stems.iter().filter(|stem| self.names.is_used(stem)).count();
        used > 1 && used * 3 >= stems.len()
    }

    /// Keys with one beginning are items of one sort or of several: words that stand behind one id belong together.
    fn collect_flat(&mut self, flat: &Flat, spots: &[Spot]) {
        let mut words_of: BTreeMap<String, BTreeSet<Option<&str>>> = BTreeMap::new();
        for &spot in spots {
            let (id, word) = flat.split(self.key(spot));
            words_of.entry(id.to_owned()).or_default().insert(word);
        }
        let mut sorts: Vec<BTreeSet<Option<&str>>> = Vec::new();
        for words in words_of.values() {
            let (together, apart) = sorts.into_iter().partition(|sort| !sort.is_disjoint(words));
            sorts = apart;
            let together: Vec<BTreeSet<Option<&str>>> = together;
            sorts.push(together.into_iter().flatten().chain(words.iter().copied()).collect());
        }
        let sorts: Vec<BTreeSet<Option<String>>> = sorts
            .into_iter()
            .map(|sort| sort.into_iter().map(|word| word.map(str::to_owned)).collect())
            .collect();
        for sort in sorts {
            let is_own = |spot: &Spot| {
                let word = flat.split(self.key(*spot)).1;
                sort.iter().any(|own| own.as_deref() == word)
            };
            let own: Vec<Spot> = spots.iter().copied().filter(is_own).collect();
            self.collect_sort(flat, own);
        }
    }

    fn collect_sort(&mut self, flat: &Flat, spots: Vec<Spot>) {
        let mut items: Vec<Spot> = Vec::new();
        let mut numbers: BTreeMap<String, usize> = BTreeMap::new();
        let mut fields: BTreeMap<String, Vec<Leaf>> = BTreeMap::new();
        for spot in spots {
            let (id, word) = flat.split(self.key(spot));
            let path = word.map_or_else(|| "$".to_owned(), |word| format!("$.{word}"));
            let item = *numbers.entry(id.to_owned()).or_insert_with(|| {
                items.push(spot);
                items.len() - 1
            });
            fields.entry(path).or_default().push(Leaf { item, spot });
        }
        let ids = vec![IdFrom::Stem(flat.clone())];
        let each = "$.*".to_owned();
        self.shape.collections.push(Collection { each, ids, items, fields, ..Collection::default() });
    }
}
