//! Near-misses: what a name that is not known was probably meant to be.
//!
//! Comparing every unknown name with every known one would be quadratic. Instead both are cut down to
//! signatures that close names share — the name without case and separators, and that with any one character
//! left out (after the deletion neighbourhoods of T. Bocek et al., "Fast similarity search in large
//! dictionaries", 2007) — and only names that share one are compared. Work grows with the text of all names.

use crate::work;
use foldhash::{HashMap, HashMapExt};
use rayon::prelude::*;

/// Names longer than this many characters are compared whole only.
const LONGEST: usize = 120;
/// More names than this with the same last part say nothing about which was meant.
const FEW: usize = 3;
/// Wanted names that share a signature with more than so many others are numbered rather than misspelt.
const CROWD: usize = 16;
const BASE: u64 = 0x9E37_79B9_7F4A_7C15;

/// For each wanted name the known one that it was probably meant to be, as an index of `known`; of several
/// the closest, then the first by text. The order of `known` does not matter.
pub fn nearest(wanted: &[&str], known: &[&str]) -> Vec<Option<usize>> {
    meanings(wanted, known).into_iter().map(|meant| meant.map(|meant| meant.known)).collect()
}

/// What a name was probably meant to be.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Meant {
    /// The known name, as an index of those.
    pub known: usize,
    /// How much alike the two are.
    pub likeness: Likeness,
}

/// How much alike a name and the one that was probably meant are.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Likeness {
    /// A few letters part them, and no other known name is as near.
    Sure,
    /// A few letters part them.
    Misspelt,
    /// They but end alike, and may well be two things.
    EndsAlike,
}

impl Likeness {
    /// The same, but not sure.
    #[must_use]
    pub fn at_most_likely(self) -> Self {
        if self == Self::Sure { Self::Misspelt } else { self }
    }

    /// Whether a few letters part the two.
    pub fn is_misspelt(self) -> bool {
        self != Self::EndsAlike
    }
}

/// The same as [`nearest`], with how sure it is.
pub fn meanings(wanted: &[&str], known: &[&str]) -> Vec<Option<Meant>> {
    if wanted.is_empty() || known.is_empty() {
        return vec![None; wanted.len()];
    }
    let index = Index::new(wanted);
    let found = known
        .par_iter()
        .enumerate()
        .fold(
            || (BestByWanted::new(), Letters::default()),
            |(mut found, mut letters), (position, name)| {
                letters.read(name);
                index.compare(wanted, known, position, &letters, &mut found);
                (found, letters)
            },
        )
        .map(|(found, _)| found)
        .reduce(BestByWanted::new, |mut one, other| {
            for (wanted, best) in other {
                one.entry(wanted).or_default().merge(best, known);
            }
            one
        });
    let choose = |wanted: usize| found.get(&(wanted as u32)).and_then(Best::choose);
    (0..wanted.len()).map(choose).collect()
}

/// How close a known name is; smaller is closer.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
enum Closeness {
    /// Apart in letter case and separators only.
    Folded,
    /// Apart by so many edits.
    Edits(usize),
    /// The same last part in another place.
    LastPart,
}

type BestByWanted = HashMap<u32, Best>;

/// The best known name so far for one wanted name.
#[derive(Clone, Copy, Default)]
struct Best {
    closest: Option<(Closeness, usize)>,
    /// Whether two known names are but a few letters away.
    has_rival: bool,
    /// How many names have the same last part.
    last_parts: usize,
}

impl Best {
    fn merge(&mut self, other: Self, known: &[&str]) {
        self.last_parts += other.last_parts;
        self.has_rival |= other.has_rival;
        if let Some((closeness, position)) = other.closest {
            self.offer(closeness, position, known);
        }
    }

    fn offer(&mut self, closeness: Closeness, position: usize, known: &[&str]) {
        let key = |(closeness, position): (Closeness, usize)| (closeness, known[position], position);
        self.has_rival |= closeness != Closeness::LastPart
            && self
                .closest
                .is_some_and(|(other, at)| other != Closeness::LastPart && known[at] != known[position]);
        if self.closest.is_none_or(|closest| key((closeness, position)) < key(closest)) {
            self.closest = Some((closeness, position));
        }
    }

    /// Whether a name could still be better or the first rival, so that comparing is worth the work: one that may be
    /// apart in case and separators only, or one that is apart by an edit at least.
    fn could_improve(&self, position: usize, known: &[&str], may_be_folded: bool) -> bool {
        self.closest.is_none_or(|(closeness, at)| {
            may_be_folded
                || !self.has_rival
                || closeness > Closeness::Edits(1)
                || (known[position], position) < (known[at], at)
        })
    }

    fn choose(&self) -> Option<Meant> {
        let (closeness, known) = self.closest?;
        let likeness = match closeness {
            Closeness::LastPart if self.last_parts > FEW => return None,
            Closeness::LastPart => Likeness::EndsAlike,
            _ if self.has_rival => Likeness::Misspelt,
            _ => Likeness::Sure,
        };
        Some(Meant { known, likeness })
    }
}

struct Index {
    by_signature: HashMap<u64, Vec<u32>>,
    by_last_part: HashMap<u64, Vec<u32>>,
    /// By wanted name the hash of all its letters.
    wholes: Vec<u64>,
    /// One bit for each low part of a signature: most names of a large workspace are done with here.
    filter: Vec<u64>,
}

impl Index {
    fn new(wanted: &[&str]) -> Self {
        let bits = (wanted.len() * 512).next_power_of_two().clamp(1 << 12, 1 << 24);
        let mut index = Self {
            by_signature: HashMap::with_capacity(wanted.len() * 16),
            by_last_part: HashMap::new(),
            wholes: Vec::with_capacity(wanted.len()),
            filter: vec![0; bits / 64],
        };
        let mut letters = Letters::default();
        for (number, name) in wanted.iter().enumerate() {
            let number = number as u32;
            letters.read(name);
            index.wholes.push(letters.whole);
            letters.signatures(|signature| {
                let (word, bit) = index.bit(signature);
                index.filter[word] |= bit;
                let same = index.by_signature.entry(signature).or_default();
                if same.last() != Some(&number) {
                    same.push(number);
                }
            });
            if let Some(part) = last_part(name) {
                index.by_last_part.entry(part).or_default().push(number);
            }
        }
        index
    }

    fn bit(&self, signature: u64) -> (usize, u64) {
        let place = (signature >> 20) as usize % (self.filter.len() * 64);
        (place / 64, 1 << (place % 64))
    }

    fn compare(
        &self,
        wanted: &[&str],
        known: &[&str],
        position: usize,
        letters: &Letters,
        found: &mut BestByWanted,
    ) {
        let name = known[position];
        let mut compared: [u32; FEW] = [u32::MAX; FEW];
        letters.signatures(|signature| {
            work::count(1);
            let (word, bit) = self.bit(signature);
            if self.filter[word] & bit == 0 {
                return;
            }
            let numbers = self.by_signature.get(&signature).map_or(&[][..], Vec::as_slice);
            if numbers.len() > CROWD {
                return;
            }
            work::count(numbers.len());
            for &number in numbers {
                if compared.contains(&number) {
                    continue;
                }
                compared.rotate_right(1);
                compared[0] = number;
                let best = found.entry(number).or_default();
                let may_be_folded = self.wholes[number as usize] == letters.whole;
                if best.could_improve(position, known, may_be_folded)
                    && let Some(closeness) = closeness(wanted[number as usize], name)
                {
                    best.offer(closeness, position, known);
                }
            }
        });
        if let Some(part) = last_part(name) {
            for &number in self.by_last_part.get(&part).into_iter().flatten().take(CROWD) {
                let best = found.entry(number).or_default();
                best.last_parts += 1;
                best.offer(Closeness::LastPart, position, known);
            }
        }
    }
}

fn closeness(wanted: &str, known: &str) -> Option<Closeness> {
    let fold = |text: &str| text.chars().filter(|&c| !is_separator(c)).flat_map(char::to_lowercase).collect();
    let (wanted_folded, known_folded): (String, String) = (fold(wanted), fold(known));
    if wanted_folded == known_folded {
        return Some(Closeness::Folded);
    }
    // Two edits in a short name make another name.
    let allowed = if wanted_folded.chars().count() < 5 { 1 } else { 2 };
    let edits = strsim::osa_distance(&wanted_folded, &known_folded);
    (edits <= allowed).then_some(Closeness::Edits(edits))
}

fn is_separator(character: char) -> bool {
    matches!(character, '.' | '-' | '_' | '/' | ':' | '\\')
}

/// The letters of a name without case and separators, in memory that the next name uses again.
#[derive(Default)]
struct Letters {
    /// What stands for each letter in hashes; of a long name as many as are compared.
    values: Vec<u64>,
    /// By letter the hash of all before it.
    before: Vec<u64>,
    whole: u64,
    is_long: bool,
}

impl Letters {
    fn read(&mut self, name: &str) {
        self.values.clear();
        self.before.clear();
        (self.whole, self.is_long) = (0, false);
        if name.is_ascii() {
            let letters = name.bytes().filter(|&byte| !is_separator(byte.into()));
            letters.for_each(|byte| self.add(byte.to_ascii_lowercase().into()));
        } else {
            let letters = name.chars().filter(|&c| !is_separator(c)).flat_map(char::to_lowercase);
            letters.for_each(|letter| self.add(letter.into()));
        }
    }

    fn add(&mut self, letter: u32) {
        let value = u64::from(letter) + 1;
        if self.values.len() < LONGEST {
            self.values.push(value);
            self.before.push(self.whole);
        } else {
            self.is_long = true;
        }
        self.whole = self.whole.wrapping_mul(BASE).wrapping_add(value);
    }

    /// The signatures of the name: the hash of all its letters, and of all but one.
    fn signatures(&self, mut each: impl FnMut(u64)) {
        each(self.whole);
        if self.values.len() < 3 || self.is_long {
            return;
        }
        // Hash of everything but one letter: what stands before, moved up, and what stands after.
        let (mut after, mut power) = (0_u64, 1_u64);
        for (&value, &before) in self.values.iter().zip(&self.before).rev() {
            each(before.wrapping_mul(power).wrapping_add(after));
            after = after.wrapping_add(value.wrapping_mul(power));
            power = power.wrapping_mul(BASE);
        }
    }
}

/// The hash of the last part of a dotted name, if it says something.
fn last_part(name: &str) -> Option<u64> {
    let (_, part) = name.rsplit_once('.')?;
    (part.len() > 3).then(|| {
        part.bytes().fold(1, |hash: u64, byte| {
            hash.wrapping_mul(BASE).wrapping_add(u64::from(byte.to_ascii_lowercase()))
        })
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const KNOWN: [&str; 9] = [
        "vehicles.fleet",
        "vehicles.locator",
        "clock.system",
        "timetable.board",
        "timetable.store",
        "Announcer",
        "DepartureSource",
        "depot.roster-store",
        "id",
    ];

    #[rstest]
    #[case::a_letter_lost("vehicles.flet", Some("vehicles.fleet"))]
    #[case::a_letter_more("vehicles.fleeet", Some("vehicles.fleet"))]
    #[case::another_letter("vehicles.floet", Some("vehicles.fleet"))]
    #[case::letters_swapped("timetable.baord", Some("timetable.board"))]
    #[case::case_and_separator("Vehicles_Fleet", Some("vehicles.fleet"))]
    #[case::singular("vehicle.fleet", Some("vehicles.fleet"))]
    #[case::other_module("fleet.locator", Some("vehicles.locator"))]
    #[case::contract("Anouncer", Some("Announcer"))]
    #[case::nothing_like_it("traction.substation", None)]
    #[case::too_short("ix", None)]
    #[case::empty("", None)]
    fn the_closest_name_is_found(#[case] wanted: &str, #[case] expected: Option<&str>) {
        let found = nearest(&[wanted], &KNOWN)[0].map(|position| KNOWN[position]);
        assert_eq!(found, expected);
    }

    #[rstest]
    #[case::an_accent("vehicles.flßet", Some("vehicles.fleet"))]
    #[case::capitals_beyond_ascii("ŽIŽKOV.GATE", Some("žižkov.gate"))]
    #[case::a_letter_lost_beyond_ascii("žižkv.gate", Some("žižkov.gate"))]
    // The Kelvin sign is a k in lower case, so this is ASCII but for its case.
    #[case::ascii_in_lower_case("cloc\u{212a}.system", Some("clock.system"))]
    fn letters_beyond_ascii_are_letters(#[case] wanted: &str, #[case] expected: Option<&str>) {
        let known: Vec<&str> = KNOWN.into_iter().chain(["žižkov.gate"]).collect();
        let found = nearest(&[wanted], &known)[0].map(|position| known[position]);
        assert_eq!(found, expected);
    }

    #[rstest]
    #[case::as_long_as_is_compared(LONGEST, true)]
    #[case::longer(LONGEST + 1, false)]
    fn very_long_names_are_compared_whole_only(#[case] length: usize, #[case] is_found: bool) {
        let known = "ab".repeat(length)[..length].to_owned();
        let (cased, misspelt) = (known.to_uppercase(), known.replacen("ab", "ac", 1));
        assert_eq!(nearest(&[&cased], &[&known]), [Some(0)]);
        assert_eq!(nearest(&[&misspelt], &[&known])[0].is_some(), is_found);
    }

    #[test]
    fn many_with_the_same_last_part_say_nothing() {
        let known: Vec<String> = (0..9).map(|number| format!("module{number}.gateway")).collect();
        let known: Vec<&str> = known.iter().map(String::as_str).collect();
        assert_eq!(nearest(&["other.gateway"], &known), [None]);
    }

    #[test]
    fn order_does_not_matter() {
        let mut known = KNOWN.to_vec();
        known.reverse();
        let wanted = ["vehicles.flet", "timetable.stor", "Anouncer"];
        let texts = |known: &[&str]| -> Vec<Option<String>> {
            let found = nearest(&wanted, known);
            found.iter().map(|position| position.map(|at| known[at].to_owned())).collect()
        };
        assert_eq!(texts(&known), texts(&KNOWN));
    }
}
