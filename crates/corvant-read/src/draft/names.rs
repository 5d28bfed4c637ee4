//! Texts of all files, and what in them may be names.

use super::families::Family;
use super::files::Document;
use crate::syntax::NodeKind;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;

/// How often each text that may be a name stands as a value, alone or among signs.
#[derive(Debug, Default)]
pub(super) struct Names<'n> {
    used: HashMap<&'n str, u32>,
    /// What stands behind the first dot of names that are used.
    tails: HashSet<&'n str>,
}

/// Longer texts are prose.
const LONGEST: usize = 400;

impl<'n> Names<'n> {
    /// The names in values of all families.
    pub(super) fn of(families: &'n [Family<'_>]) -> Self {
        let documents: Vec<&Document<'_>> = families.iter().flat_map(|family| &family.documents).collect();
        let counted = documents.into_par_iter().fold(HashMap::default, |mut used, document| {
            count(document, &mut used);
            used
        });
        let used = counted.reduce(HashMap::default, |one, other| {
            let (mut more, less) = if one.len() < other.len() { (other, one) } else { (one, other) };
            for (name, times) in less {
                *more.entry(name).or_default() += times;
            }
            more
        });
        let tails = used.keys().filter_map(|name| name.split_once('.')).map(|(_, tail)| tail).collect();
        Self { used, tails }
    }

    /// Whether a key stands as a value somewhere.
    pub(super) fn is_used(&self, key: &str) -> bool {
        self.used.contains_key(key)
    }

    /// Whether a key, with some name and a dot before it, stands as a value somewhere.
    pub(super) fn is_used_behind(&self, key: &str) -> bool {
        self.tails.contains(key)
    }

    /// Whether a value stands in more places than some.
    pub(super) fn is_used_beyond(&self, text: &str, times: u32) -> bool {
        self.used.get(text).is_some_and(|&count| count > times)
    }

    /// Whether a value stands as one somewhere else.
    pub(super) fn is_used_elsewhere(&self, text: &str) -> bool {
        self.is_used_beyond(text, 1)
    }

    /// Whether a text is made of a name that stands elsewhere too.
    pub(super) fn mentions(&self, text: &str) -> bool {
        words(text).any(|word| self.is_used_elsewhere(word))
    }
}

fn count<'n>(document: &'n Document<'_>, used: &mut HashMap<&'n str, u32>) {
    let (tree, mut waiting) = (&document.tree, vec![document.root]);
    while let Some(node) = waiting.pop() {
        match tree.kind(node) {
            NodeKind::Map => waiting.extend(tree.fields(node).map(|(_, value)| value)),
            NodeKind::List => waiting.extend(tree.children(node)),
            NodeKind::Text => words(tree.text(node)).for_each(|name| *used.entry(name).or_default() += 1),
            _ => {}
        }
    }
}

/// The parts of a text that may be names: it as a whole, and runs of letters, digits and the signs that names have.
pub(super) fn words(text: &str) -> impl Iterator<Item = &str> {
    let whole = (text.len() <= LONGEST && !text.is_empty()).then_some(text);
    let runs = if text.len() <= LONGEST { text } else { "" };
    let words = runs.split(|letter: char| !is_of_name(letter)).flat_map(words_of_run);
    whole.into_iter().chain(words.filter(move |word| !word.is_empty() && Some(*word) != whole))
}

/// What a run of such letters may be: it as a whole, and where it holds signs that separate as much as they belong to names, what
/// stands behind each, before each and between them.
pub(super) fn words_of_run(run: &str) -> impl Iterator<Item = &str> {
    // Most runs hold none.
    let most = if run.contains(SEPARATING) { CUTS } else { 0 };
    let cuts = || run.match_indices(SEPARATING).take(most);
    let behind = cuts().map(|(at, sign)| &run[at + sign.len()..]);
    let before = cuts().map(|(at, _)| &run[..at]);
    let between = run.split(SEPARATING).take(2 * most);
    std::iter::once(run).chain(behind).chain(before).chain(between).map(trimmed)
}

/// Signs that a run is cut at.
const CUTS: usize = 8;

/// Signs that stand inside of names in some houses, and between them in others.
pub(super) const SEPARATING: [char; 2] = ['/', ':'];

/// Whether a letter stands inside of names.
pub(super) fn is_of_name(letter: char) -> bool {
    letter.is_alphanumeric() || matches!(letter, '.' | '-' | '_' | '\\') || SEPARATING.contains(&letter)
}

/// A run of such letters without those that no name begins or ends with.
fn trimmed(run: &str) -> &str {
    run.trim_matches(['.', '-', '/', ':'])
}
