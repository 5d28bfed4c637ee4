//! Texts of all files, and what in them may be names.

use super::files::Family;
use crate::syntax::NodeKind;
use foldhash::HashMap;

/// How often each text that may be a name stands as a value, alone or among signs.
#[derive(Debug, Default)]
pub(super) struct Names {
    used: HashMap<String, u32>,
}

/// Longer texts are prose.
const LONGEST: usize = 400;

impl Names {
    /// The names in values of all families.
    pub(super) fn of(families: &[Family<'_>]) -> Self {
        let mut used: HashMap<String, u32> = HashMap::default();
        for tree in families.iter().flat_map(|family| &family.documents).map(|document| &document.tree) {
            let mut waiting: Vec<_> = tree.root().into_iter().collect();
            while let Some(node) = waiting.pop() {
                match tree.kind(node) {
                    NodeKind::Map => waiting.extend(tree.fields(node).map(|(_, value)| value)),
                    NodeKind::List => waiting.extend(tree.children(node)),
                    NodeKind::Text => {
                        let mut add = |name: &str| match used.get_mut(name) {
                            Some(count) => *count += 1,
                            None => _ = used.insert(name.to_owned(), 1),
                        };
                        let text = tree.text(node);
                        words(text).for_each(&mut add);
                    }
                    _ => {}
                }
            }
        }
        Self { used }
    }

    /// Whether a key stands as a value somewhere.
    pub(super) fn is_used(&self, key: &str) -> bool {
        self.used.contains_key(key)
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

/// The parts of a text that may be names: it as a whole, and runs of letters, digits and the signs that names have.
pub(super) fn words(text: &str) -> impl Iterator<Item = &str> {
    let whole = (text.len() <= LONGEST && !text.is_empty()).then_some(text);
    let runs = if text.len() <= LONGEST { text } else { "" };
    let runs = runs
        .split(|letter: char| !is_of_name(letter))
        .map(|run| run.trim_matches(['.', '-']))
        .filter(move |run| !run.is_empty() && Some(*run) != whole);
    whole.into_iter().chain(runs)
}

/// Whether a letter stands inside of names.
pub(super) fn is_of_name(letter: char) -> bool {
    letter.is_alphanumeric() || matches!(letter, '.' | '-' | '_' | '\\')
}
