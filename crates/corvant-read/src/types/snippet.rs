//! Pieces of code on their own: what a literal is worth, which type a text names, how deep a text goes.

use super::Language;
use super::lexer::{TEXT, Token};
use super::marks::unquoted;
use super::outline::{Literal, TypeUse};
use super::tokens::Tokens;

/// How many brackets may stand in one another, and how many signs that may begin type arguments be open in one statement,
/// in a text that is handed to a parser.
const DEEPEST: usize = 400;
const OPEN: usize = 200;

/// What code on a page begins with.
const PAGE: &str = "<?php ";

/// What a piece of code is worth; `None`: that is computed, or it is no value.
pub(crate) fn literal_of(text: &str, language: Language) -> Option<Literal> {
    with_tokens(text, language, |tokens| tokens.literal(0..tokens.len()))
}

/// The type that a piece of code names.
pub(crate) fn type_of(text: &str, language: Language) -> Option<TypeUse> {
    with_tokens(text, language, |tokens| tokens.whole_type(0..tokens.len()))
}

fn with_tokens<T>(text: &str, language: Language, act: impl FnOnce(&Tokens<'_>) -> Option<T>) -> Option<T> {
    let page;
    let text = if language == Language::Php {
        page = format!("{PAGE}{text}");
        &page
    } else {
        text
    };
    let (tokens, doubt) = Tokens::new(text, language);
    if doubt.is_some() { None } else { act(&tokens) }
}

/// Where more stands in one another than a parser is asked to look at.
pub(crate) fn too_deep(text: &str, language: Language) -> Option<usize> {
    let (tokens, _) = Tokens::new(text, language);
    let (mut brackets, mut open) = (0_usize, 0_usize);
    for token in &tokens.all {
        match token.sign {
            b'(' | b'[' => brackets += 1,
            b'{' => (brackets, open) = (brackets + 1, 0),
            b')' | b']' => brackets = brackets.saturating_sub(1),
            b'}' => (brackets, open) = (brackets.saturating_sub(1), 0),
            b'<' => open += 1,
            b'>' => open = open.saturating_sub(1),
            b';' => open = 0,
            _ => {}
        }
        if brackets > DEEPEST || open > OPEN {
            return Some(token.range().start);
        }
    }
    None
}

/// Texts in quotes, and names, that stand in a piece of code, and where each begins, without its quotes.
pub(crate) fn words_of(text: &str, language: Language) -> Vec<(usize, String)> {
    let before = if language == Language::Php { PAGE.len() } else { 0 };
    let words = with_tokens(text, language, |tokens| {
        let word = |token: &Token| {
            let (at, written) = (token.range().start - before, &tokens.text[token.range()]);
            match token.sign {
                TEXT => Some((at + 1, unquoted(written, language))),
                0 => Some((at, written.to_owned())),
                _ => None,
            }
        };
        Some(tokens.all.iter().filter_map(word).collect::<Vec<_>>())
    });
    words.unwrap_or_default()
}
