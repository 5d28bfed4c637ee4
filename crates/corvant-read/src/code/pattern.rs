//! Patterns: pieces of code with holes.

use super::grammar::{Grammar, HOLE, Piece};
use crate::types::Language;
use ast_grep_core::matcher::PatternNode;
use ast_grep_core::meta_var::MetaVariable;
use ast_grep_core::{Matcher, Pattern};
use std::fmt;

/// A piece of code with holes, in one language.
#[derive(Clone)]
pub(crate) struct CodePattern {
    /// As it is written.
    text: String,
    /// With the grammar of each form of the language.
    forms: Vec<(Grammar, Pattern)>,
    /// Words that stand in whatever matches it.
    literals: Vec<String>,
    /// The names of its holes.
    holes: Vec<String>,
}

impl fmt::Debug for CodePattern {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.debug_struct("CodePattern").field("text", &self.text).finish_non_exhaustive()
    }
}

impl CodePattern {
    /// Reads a pattern; the error says why it is none.
    pub(crate) fn new(text: &str, language: Language) -> Result<Self, String> {
        let grammar = Grammar::of(language).ok_or("there is no grammar for it")?;
        let both = [grammar, Grammar::Tsx];
        let grammars = if grammar == Grammar::TypeScript { &both[..] } else { &both[..1] };
        let forms = grammars.iter().filter_map(|&grammar| Some((grammar, pattern(text, grammar)?)));
        let forms: Vec<_> = forms.collect();
        let Some((_, first)) = forms.first() else {
            return Err(
                "it is not one piece of code: a whole expression, statement or declaration".to_owned()
            );
        };
        let mut found = Found::default();
        found.look(&first.node);
        if is_hole_alone(&first.node) {
            return Err("it would match any piece of code".to_owned());
        }
        Ok(Self { text: text.to_owned(), forms, literals: found.literals, holes: found.holes })
    }

    /// As it is written.
    pub(crate) fn text(&self) -> &str {
        &self.text
    }

    /// Whether something of it is called so.
    pub(crate) fn has_hole(&self, name: &str) -> bool {
        self.holes.iter().any(|hole| hole == name)
    }

    /// Whether all words of it stand in a text, so that it may match there.
    pub(crate) fn may_match(&self, text: &str) -> bool {
        self.literals
            .iter()
            .all(|literal| memchr::memmem::find(text.as_bytes(), literal.as_bytes()).is_some())
    }

    /// What it is in a grammar.
    pub(super) fn in_grammar(&self, grammar: Grammar) -> Option<&Pattern> {
        self.forms.iter().find(|(known, _)| *known == grammar).map(|(_, pattern)| pattern)
    }

    /// The kinds of pieces that it can match in a grammar; `None`: any.
    pub(super) fn kinds(&self, grammar: Grammar) -> Option<Vec<u16>> {
        let kinds = self.in_grammar(grammar)?.potential_kinds()?;
        Some(kinds.iter().map(|kind| kind as u16).collect())
    }
}

/// A pattern in the first context in which it is one piece of code.
fn pattern(text: &str, grammar: Grammar) -> Option<Pattern> {
    let piece = with_holes(text.trim(), "");
    let found = in_a_context(&piece, grammar);
    // What can only be a variable begins with a sign there.
    let as_variables = || in_a_context(&with_holes(text.trim(), "$"), grammar);
    found.or_else(|| if grammar == Grammar::Php { as_variables() } else { None })
}

fn in_a_context(piece: &str, grammar: Grammar) -> Option<Pattern> {
    grammar.contexts().iter().find_map(|context| {
        let at = context.find("{}")?;
        let whole = [&context[..at], piece, &context[at + 2..]].concat();
        let parsed = grammar.parse_trusted(&whole)?;
        let (start, end) = (at, at + piece.len());
        let root = parsed.root();
        let inner = root.get_inner_node().descendant_for_byte_range(start, end)?;
        let is_whole = inner.start_byte() == start && inner.end_byte() == end;
        // The root holds several pieces, or it would not be the innermost.
        (is_whole && !inner.has_error() && inner.parent().is_some())
            .then(|| Pattern::from(parsed.adopt(inner)))
    })
}

/// The text with the letter that all grammars take for one of a name in place of the sign for holes, behind what such names begin with.
fn with_holes(text: &str, before: &str) -> String {
    let mut made = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find('$') {
        made.push_str(&rest[..at]);
        rest = &rest[at..];
        let signs = rest.len() - rest.trim_start_matches('$').len();
        let is_name = rest[signs..].starts_with(|next: char| next.is_ascii_uppercase() || next == '_');
        let is_hole = signs == 3 || signs == 1 && is_name;
        made.push_str(if is_hole { before } else { "" });
        for _ in 0..signs {
            made.push(if is_hole { HOLE } else { '$' });
        }
        rest = &rest[signs..];
    }
    made + rest
}

/// What stands in a pattern.
#[derive(Default)]
struct Found {
    literals: Vec<String>,
    holes: Vec<String>,
}

impl Found {
    fn look(&mut self, node: &PatternNode) {
        match node {
            PatternNode::MetaVar {
                meta_var: MetaVariable::Capture(name, _) | MetaVariable::MultiCapture(name),
            } => {
                if !self.holes.contains(name) {
                    self.holes.push(name.clone());
                }
            }
            PatternNode::MetaVar { .. } => {}
            PatternNode::Terminal { text, is_named, .. } => {
                let is_word = text.chars().all(|letter| letter.is_alphanumeric() || letter == '_');
                if *is_named && is_word && !text.is_empty() && !self.literals.contains(text) {
                    self.literals.push(text.clone());
                }
            }
            PatternNode::Internal { children, .. } => {
                for child in children {
                    self.look(child);
                }
            }
        }
    }
}

/// Whether a pattern is nothing but a hole.
fn is_hole_alone(node: &PatternNode) -> bool {
    match node {
        PatternNode::MetaVar { .. } => true,
        PatternNode::Terminal { .. } => false,
        PatternNode::Internal { children, .. } => {
            let mut said = children.iter().filter(|child| !child.is_trivial());
            let first = said.next().is_none_or(is_hole_alone);
            first && said.next().is_none() && children.len() == 1
        }
    }
}

/// A piece that a pattern matches, and what stands in its holes.
pub(super) struct Matched<'r> {
    pub(super) piece: Piece<'r>,
    /// The number of the pattern among those of the item.
    pub(super) pattern: usize,
    pub(super) holes: Vec<(String, Held<'r>)>,
}

/// What stands in a hole.
pub(super) enum Held<'r> {
    One(Piece<'r>),
    Several(Vec<Piece<'r>>),
}

impl<'r> Held<'r> {
    /// All of it.
    pub(super) fn pieces(&self) -> &[Piece<'r>] {
        match self {
            Self::One(one) => std::slice::from_ref(one),
            Self::Several(all) => all,
        }
    }
}

impl<'r> Matched<'r> {
    pub(super) fn held(&self, hole: &str) -> Option<&Held<'r>> {
        self.holes.iter().find(|(name, _)| name == hole).map(|(_, held)| held)
    }
}
