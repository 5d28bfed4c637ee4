//! What can still be said of text that could not be read: its words.

use crate::syntax::{NodeId, NodeKind, Tree};
use corvant_core::facts::Unread;
use corvant_core::name::Interner;

/// Letters of a name with arguments that are looked at.
const LONGEST: usize = 300;

/// The words of a text, and which of them stand where a field name would: before `:` or `=`, in quotes or not.
pub(crate) fn unread(text: &str, interner: &Interner) -> Unread {
    let ends = |character: char| {
        character.is_whitespace()
            || matches!(character, ',' | ':' | '{' | '}' | '[' | ']' | '"' | '\'' | '#' | '=')
    };
    let mut unread = Unread::default();
    let mut from = 0;
    while let Some(start) = text[from..].find(|character| !ends(character)).map(|at| from + at) {
        let end = text[start..].find(ends).map_or(text.len(), |at| start + at);
        let name = interner.intern(&text[start..end]);
        unread.mentions.push(name);
        unread.mentions.extend(with_arguments(&text[start..]).map(|whole| interner.intern(whole)));
        let after = text[end..].trim_start_matches(['"', '\'', ' ', '\t']);
        if after.starts_with([':', '=']) {
            unread.defines.push(name);
        }
        from = end;
    }
    unread
}

/// The name at the beginning of a text, if it has arguments of which a comma parts some: `Map<Line, Stop>` is one
/// name.
fn with_arguments(text: &str) -> Option<&str> {
    let mut depth = 0;
    for (at, letter) in text.char_indices().take(LONGEST) {
        match letter {
            '<' => depth += 1,
            '>' if depth == 1 => {
                let whole = &text[..=at];
                return whole.contains([',', ' ']).then_some(whole);
            }
            '>' => depth -= 1,
            ' ' | ',' if depth > 0 => {}
            _ if letter.is_whitespace() || ",:{}[]\"'#=".contains(letter) => return None,
            _ => {}
        }
    }
    None
}

/// The words of a value that is passed over, and of all that is in it; its keys are field names.
pub(crate) fn of_value(tree: &Tree<'_>, value: NodeId, interner: &Interner) -> Unread {
    let mut unread = Unread::default();
    let mut waiting = vec![value];
    while let Some(node) = waiting.pop() {
        match tree.kind(node) {
            NodeKind::List => waiting.extend(tree.children(node)),
            NodeKind::Map => {
                for (key, value) in tree.fields(node) {
                    unread.defines.push(interner.intern(tree.text(key)));
                    waiting.extend([key, value]);
                }
            }
            _ => {
                let words = self::unread(tree.text(node), interner);
                unread.mentions.push(interner.intern(tree.text(node)));
                unread.mentions.extend(words.mentions);
                unread.defines.extend(words.defines);
            }
        }
    }
    unread
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_and_field_names_are_told_apart() {
        let interner = Interner::default();
        let text = "services:\n  \"clock.system\" : {offers: [Clock, 'Map<Line, Set<Stop>>', 'Store<*>']}\n key = x # žluť";
        let unread = unread(text, &interner);
        let names = interner.freeze();
        let texts = |list: &[corvant_core::name::Name]| -> Vec<String> {
            list.iter().map(|&name| names.text(name).to_owned()).collect()
        };
        assert_eq!(texts(&unread.defines), ["services", "clock.system", "offers", "key"]);
        assert!(texts(&unread.mentions).contains(&"Map<Line, Set<Stop>>".to_owned()));
        assert!(texts(&unread.mentions).ends_with(&["Store<*>", "key", "x", "žluť"].map(str::to_owned)));
    }
}
