//! Flat files: keys that begin with a word for the sort, and end with one for what is said of the item.

use super::shape::{Collection, Flat, IdFrom, Leaf, Looking, Numbers, Spot, without_slot};
use super::study::{SEPARATORS, begins_with_type};
use foldhash::{HashMap, HashSet};
use std::collections::{BTreeMap, BTreeSet};

/// Keys that a word ends, for it to mean anything.
const MANY: usize = 5;
/// Words that say so little of many keys that they are no names.
const FEW: usize = 3;
/// Words that stand before ids, and behind those of one sort.
const WORDS: usize = 12;

/// What a word stands behind.
#[derive(Default)]
struct Behind<'k> {
    /// By key what stands before it.
    stems: Vec<&'k str>,
    /// How many of those are ids, and how many of the keys are part of one.
    ids: usize,
    parts: usize,
    /// The words behind it, where those are looked at.
    slots: HashSet<&'k str>,
}

impl Behind<'_> {
    fn is_told(&self) -> bool {
        let all = self.stems.len();
        all > 1 && self.ids * 2 > all && self.parts * 5 < all
    }

    fn has_slots(&self) -> bool {
        let (all, stems) = (self.stems.len(), self.stems.iter().collect::<HashSet<_>>().len());
        self.ids * 10 >= all * 8
            && self.parts * 5 < all
            && self.slots.len() > FEW
            && stems >= MANY
            && stems * SLOTS >= all
    }
}

/// Keys by their first word, if those are few, without it.
fn by_first_word<'k>(keys: &[&'k str]) -> Vec<(&'k str, Vec<&'k str>)> {
    let mut sorts: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
    for key in keys {
        let (word, rest) = key.split_once('.').unwrap_or(("", key));
        sorts.entry(word).or_default().push(rest);
    }
    if sorts.len() <= WORDS { sorts.into_iter().collect() } else { Vec::new() }
}

/// Words of its own choice that an item has behind one word, mostly.
const SLOTS: usize = 6;

/// The word behind an id, and whether what stands under an id alone is a type.
type Word<'k> = (Option<&'k str>, bool);

/// Words behind the ids of one sort.
type Sort<'k> = BTreeSet<Word<'k>>;

/// Words that one id has belong together.
pub(super) fn together<'w, Word: Ord + Copy + 'w>(
    all: impl Iterator<Item = &'w BTreeSet<Word>>,
) -> Vec<BTreeSet<Word>> {
    let mut sorts: Vec<BTreeSet<Word>> = Vec::new();
    for words in all.collect::<BTreeSet<_>>() {
        let (same, apart): (Vec<_>, Vec<_>) = sorts.into_iter().partition(|sort| !sort.is_disjoint(words));
        sorts = apart;
        sorts.push(same.into_iter().flatten().chain(words.iter().copied()).collect());
    }
    sorts
}

/// Words behind ids of each sort: where none is told, those that are in another sort, if all keys end with such.
fn of_others(sorts: &[(&str, Vec<&str>)], mut behind: Vec<BTreeSet<String>>) -> Vec<BTreeSet<String>> {
    let all: BTreeSet<String> = behind.iter().flatten().cloned().collect();
    for ((_, rests), own) in sorts.iter().zip(&mut behind).filter(|(_, own)| own.is_empty()) {
        let last = |rest: &&str| rest.rsplit_once('.').map(|(_, word)| word.to_owned());
        let words: Option<BTreeSet<String>> = rests.iter().map(last).collect();
        *own = words.filter(|words| words.is_subset(&all)).unwrap_or_default();
    }
    behind
}

/// Whether words of the items' own choice stand behind names that are known: many different ones, and none behind most.
fn have_slots(keys: &[&str], known: &HashSet<&str>) -> bool {
    let mut by_word: HashMap<&str, usize> = HashMap::default();
    let mut stems: HashSet<&str> = HashSet::default();
    for (stem, word) in keys.iter().filter_map(|key| key.rsplit_once('.')) {
        *by_word.entry(word).or_default() += 1;
        stems.insert(stem);
    }
    let most = by_word.values().max().copied().unwrap_or_default();
    let are_known = stems.iter().filter(|stem| known.contains(*stem)).count() * 10 >= stems.len() * 9;
    let are_parted = by_word.values().sum::<usize>() == keys.len();
    by_word.len() > 3 && most * 10 < stems.len() * 7 && are_known && are_parted
}

impl Looking<'_, '_> {
    /// Puts what flat keys speak of together. `false`: keys are ids as they are, or nothing.
    pub(super) fn flat(&mut self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        let Some(found) = self.flats(by_key) else { return false };
        // Beginnings are told before what has none.
        for flat in found.iter().rev() {
            let others = found.iter().filter(|other| other.before.len() > flat.before.len());
            let others: Vec<&str> = others.map(|other| other.before.as_str()).collect();
            let is_own = |key: &str| {
                key.starts_with(&flat.before) && !others.iter().any(|before| key.starts_with(before))
            };
            let own = by_key.iter().filter(|(key, _)| is_own(key));
            let spots: Vec<Spot> = own.flat_map(|(_, spots)| spots.iter().copied()).collect();
            self.collect_flat(flat, &spots);
        }
        true
    }

    /// How keys are made: those of each sort, where they begin with a word for it, or all.
    fn flats(&self, by_key: &BTreeMap<String, Vec<Spot>>) -> Option<Vec<Flat>> {
        let numbered =
            |numbers: &Numbers| by_key.keys().filter(|key| numbers.cut(key).len() < key.len()).count() > MANY;
        let numbers = [Numbers::Dotted, Numbers::InBrackets].into_iter().find(numbered).unwrap_or_default();
        let mut all = Flat { numbers, ..Flat::default() };
        let mut keys: Vec<&str> = by_key.keys().map(|key| numbers.cut(key)).collect();
        keys.dedup();
        all.with_slots = self.words_with_slots(&keys);
        if !all.with_slots.is_empty() {
            keys = keys.into_iter().map(|key| without_slot(key, &all.with_slots)).collect();
            keys.dedup();
        }
        let sorts = by_first_word(&keys);
        if let Some(flats) = self.flats_of(&sorts, &all) {
            return Some(flats);
        }
        let behind =
            Some(self.behind(&keys)).filter(|behind| !behind.is_empty() && self.asked(&keys, behind));
        if let Some(behind) = behind.or_else(|| self.last_words(by_key, numbers)) {
            return Some(vec![Flat { behind, ..all }]);
        }
        let word = self.first_word(&sorts, by_key)?;
        Some(vec![Flat { before: format!("{word}."), ..all }])
    }

    /// How the keys of each sort are made, where what some of them speak of is asked for.
    fn flats_of(&self, sorts: &[(&str, Vec<&str>)], all: &Flat) -> Option<Vec<Flat>> {
        let stems: HashSet<&str> = sorts.iter().flat_map(|(_, rests)| rests).copied().collect();
        let have_slots: Vec<bool> = sorts.iter().map(|(_, rests)| have_slots(rests, &stems)).collect();
        let behind = sorts.iter().zip(&have_slots);
        let behind: Vec<BTreeSet<String>> = behind
            .map(|((_, rests), has_slots)| if *has_slots { BTreeSet::new() } else { self.behind(rests) })
            .collect();
        let behind = of_others(sorts, behind);
        let asked = |((word, rests), behind): (&(&str, Vec<&str>), &BTreeSet<String>)| {
            !word.is_empty() && self.asked(rests, behind)
        };
        if !sorts.iter().zip(&behind).any(asked) {
            return None;
        }
        let before = |word: &str| if word.is_empty() { String::new() } else { format!("{word}.") };
        let flats = sorts.iter().zip(behind).zip(have_slots);
        let flat = |(((word, _), behind), has_slots): ((&(&str, Vec<&str>), _), _)| Flat {
            before: before(word),
            behind,
            has_slots,
            ..all.clone()
        };
        Some(flats.map(flat).collect())
    }

    /// Words behind ids that have another word behind them, of the items' own choice: many different ones, behind few of which
    /// stands a name that is asked for.
    fn words_with_slots(&self, keys: &[&str]) -> BTreeSet<String> {
        let known: HashSet<&str> = keys.iter().copied().collect();
        let is_asked = |name: &str| {
            let behind = name.split_once('.').map(|(_, rest)| rest);
            [Some(name), behind].into_iter().flatten().any(|name| self.names.is_used(name))
        };
        let mut by_word: BTreeMap<&str, Behind<'_>> = BTreeMap::new();
        for key in keys {
            let parts =
                key.rsplit_once('.').and_then(|(before, slot)| Some((before.rsplit_once('.')?, slot)));
            let Some(((stem, word), slot)) = parts else { continue };
            let found = by_word.entry(word).or_default();
            found.stems.push(stem);
            found.ids += usize::from(known.contains(stem) || is_asked(stem));
            found.parts += usize::from(is_asked(key));
            found.slots.insert(slot);
        }
        by_word.retain(|_, found| found.has_slots());
        by_word.into_keys().map(str::to_owned).collect()
    }

    /// The few words that all keys end with, where nobody asks for the keys, and what stands there names something.
    fn last_words(&self, by_key: &BTreeMap<String, Vec<Spot>>, numbers: Numbers) -> Option<BTreeSet<String>> {
        let keys = by_key.keys().map(|key| numbers.cut(key));
        let words: Option<BTreeSet<&str>> =
            keys.map(|key| key.rsplit_once('.').map(|(_, word)| word)).collect();
        let words = words.filter(|words| words.len() <= FEW && by_key.len() >= MANY)?;
        self.are_unasked_and_name(by_key).then(|| words.into_iter().map(str::to_owned).collect())
    }

    /// The word that the keys of several files begin with, where nobody asks for them with it, and what stands there names
    /// something.
    fn first_word<'w>(
        &self,
        sorts: &[(&'w str, Vec<&str>)],
        by_key: &BTreeMap<String, Vec<Spot>>,
    ) -> Option<&'w str> {
        let [(word, rests)] = sorts else { return None };
        let is_many = rests.len() >= MANY && self.family.documents.len() > 1 && !word.is_empty();
        (is_many && self.are_unasked_and_name(by_key)).then_some(word)
    }

    /// Whether nobody asks for any of some keys, and what stands there mostly names something.
    fn are_unasked_and_name(&self, by_key: &BTreeMap<String, Vec<Spot>>) -> bool {
        let naming = by_key.values().filter(|spots| self.names.mentions(self.text(spots[0]))).count();
        naming * 2 > by_key.len() && !by_key.keys().any(|key| self.names.is_used(key))
    }

    /// Words behind ids: what stands before them is mostly a key itself or asked for, and they are hardly ever part of what is.
    fn behind(&self, keys: &[&str]) -> BTreeSet<String> {
        let known: HashSet<&str> = keys.iter().copied().collect();
        let mut by_word: BTreeMap<&str, Behind<'_>> = BTreeMap::new();
        for key in keys {
            if let Some((stem, word)) = key.rsplit_once('.') {
                let counts = by_word.entry(word).or_default();
                counts.stems.push(stem);
                counts.ids += usize::from(known.contains(stem) || self.names.is_used(stem));
                counts.parts += usize::from(self.names.is_used(key));
            }
        }
        let told = by_word.values().filter(|counts| counts.is_told());
        let told: HashSet<&str> = told.flat_map(|counts| counts.stems.iter().copied()).collect();
        // Beside such words others are too that stand behind the same, though nobody asks for those.
        let is_beside = |counts: &Behind<'_>| {
            let same = counts.stems.iter().filter(|stem| told.contains(*stem)).count();
            counts.stems.len() >= MANY && counts.parts == 0 && same * 2 > counts.stems.len()
        };
        by_word.retain(|_, counts| counts.is_told() || is_beside(counts));
        if by_word.len() > WORDS {
            let most = by_word.values().map(|counts| counts.stems.len()).max().unwrap_or_default();
            by_word.retain(|_, counts| counts.stems.len() * 20 > most);
        }
        by_word.into_keys().map(str::to_owned).collect()
    }

    /// Whether several of what keys speak of is asked for, and a good part of it.
    fn asked(&self, keys: &[&str], behind: &BTreeSet<String>) -> bool {
        let flat = Flat { behind: behind.clone(), ..Flat::default() };
        let stems: HashSet<&str> = keys.iter().map(|key| flat.split(key).0).collect();
        let used = stems.iter().filter(|stem| self.names.is_used(stem)).count();
        used > 1 && used * 3 >= stems.len()
    }

    /// Keys with one beginning are items of one sort or of several: words that stand behind one id belong together.
    fn collect_flat(&mut self, flat: &Flat, spots: &[Spot]) {
        if flat.has_slots {
            return self.collect_sort(flat, spots.to_vec());
        }
        let split = |&spot: &Spot| (spot, flat.split(self.key(spot)));
        let keys: Vec<(Spot, (&str, Option<&str>))> = spots.iter().map(split).collect();
        let bare = keys.iter().filter(|(_, (_, word))| word.is_none());
        let like = Self::likes(bare.map(|(spot, _)| self.text(*spot)));
        let said = |(spot, (id, word)): (Spot, (_, Option<_>))| {
            let is_typed = like.is_some() && word.is_none() && begins_with_type(self.text(spot));
            (spot, id, (word, is_typed))
        };
        let said: Vec<(Spot, &str, Word<'_>)> = keys.into_iter().map(said).collect();
        let mut words_of: HashMap<&str, Sort<'_>> = HashMap::default();
        for &(_, id, word) in &said {
            words_of.entry(id).or_default().insert(word);
        }
        let own = |sort: Sort<'_>| -> (Option<&'static str>, Vec<Spot>) {
            let own = said.iter().filter(|(.., word)| sort.contains(word)).map(|(spot, ..)| *spot).collect();
            let (are_typed, are_plain) = (sort.contains(&(None, true)), sort.contains(&(None, false)));
            let like = like.filter(|_| are_typed != are_plain);
            (like.map(|(typed, plain)| if are_typed { typed } else { plain }), own)
        };
        let sorts: Vec<_> = together(words_of.values()).into_iter().map(own).collect();
        for (like, own) in sorts {
            self.collect_sort(flat, own);
            if let Some(last) = self.shape.collections.last_mut() {
                last.values_like = like;
            }
        }
    }

    /// Of values those that are types are like the first, and those that are none like the second, where there are both: parts
    /// and settings mostly.
    fn likes<'v>(values: impl Iterator<Item = &'v str>) -> Option<(&'static str, &'static str)> {
        let (typed, plain): (Vec<&str>, Vec<&str>) = values.partition(|text| begins_with_type(text));
        // A few are odd.
        if typed.len() < MANY || plain.len() * 10 < typed.len() {
            return None;
        }
        let is_number = |text: &&str| text.starts_with(|letter: char| letter.is_ascii_digit());
        let has_parts = |text: &&str| text.contains(SEPARATORS);
        if plain.iter().all(is_number) {
            return Some((r"^\D", r"^\d"));
        }
        let are_told = !plain.iter().any(has_parts) && typed.iter().all(has_parts);
        are_told.then_some((r"[.\\:/]", r"^[^.\\:/]*$"))
    }

    fn collect_sort(&mut self, flat: &Flat, spots: Vec<Spot>) {
        let mut items: Vec<Spot> = Vec::new();
        let mut numbers: HashMap<&str, usize> = HashMap::default();
        let mut fields: BTreeMap<String, Vec<Leaf>> = BTreeMap::new();
        for spot in spots {
            let (id, word) = flat.split(self.key(spot));
            let path = match word {
                Some(_) if flat.has_slots => "$.*".to_owned(),
                Some(word) => format!("$.{word}"),
                None => "$".to_owned(),
            };
            let item = *numbers.entry(id).or_insert_with(|| {
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
