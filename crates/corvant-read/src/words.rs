//! What can still be said of text that could not be read: its words.

use corvant_core::facts::Unread;
use corvant_core::name::Interner;

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
        let after = text[end..].trim_start_matches(['"', '\'', ' ', '\t']);
        if after.starts_with([':', '=']) {
            unread.defines.push(name);
        }
        from = end;
    }
    unread
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_and_field_names_are_told_apart() {
        let interner = Interner::default();
        let text = "services:\n  \"clock.system\" : {offers: [Clock, 'Store<*>']}\n key = x # žluť";
        let unread = unread(text, &interner);
        let names = interner.freeze();
        let texts = |list: &[corvant_core::name::Name]| -> Vec<String> {
            list.iter().map(|&name| names.text(name).to_owned()).collect()
        };
        assert_eq!(texts(&unread.defines), ["services", "clock.system", "offers", "key"]);
        assert!(texts(&unread.mentions).ends_with(&["Store<*>", "key", "x", "žluť"].map(str::to_owned)));
    }
}
