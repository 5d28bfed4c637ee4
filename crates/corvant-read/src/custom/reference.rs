//! References: how a house writes, inside values, what a value stands for.

use super::field::FoundText;
use super::session::{Session, TEXT_LIMIT};
use corvant_core::facts::{Named, Target};
use corvant_core::source::Span;
use regex::{Captures, Regex};

/// One way of writing references.
#[derive(Debug, Clone)]
pub(crate) struct Expression {
    pub(crate) regex: Regex,
    /// What all references that it finds begin and end with, as far as that is said.
    begins: String,
    ends: String,
}

/// Names of groups that say what is meant by a name.
pub(crate) const TARGETS: [&str; 6] = ["service", "contract", "type", "tag", "setting", "all"];
/// The group of what a wrapper wraps.
pub(crate) const WRAPPED: &str = "wrapped";
/// The group of a value that is no reference, though it looks like one.
pub(crate) const PLAIN: &str = "plain";
/// Names of all groups.
pub(crate) const GROUPS: [&str; 12] = [
    "service", "contract", "type", "tag", "setting", "all", WRAPPED, PLAIN, "key", "slot", "optional", "lazy",
];

/// What a text refers to.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Reference {
    pub(crate) target: Target,
    pub(crate) span: Span,
    pub(crate) key: Option<Named>,
    pub(crate) slot: Option<Named>,
    pub(crate) optional: bool,
    pub(crate) lazy: bool,
}

/// What a text refers to: all matches of the first expression that has any.
pub(crate) fn references(
    session: &mut Session<'_>,
    expressions: &[Expression],
    found: &FoundText<'_>,
) -> Vec<Reference> {
    if found.text.len() > TEXT_LIMIT {
        session.too_long(found);
        return Vec::new();
    }
    for expression in expressions {
        let mut is_plain = false;
        let references: Vec<Reference> = expression
            .regex
            .captures_iter(&found.text)
            .inspect(|captures| is_plain |= captures.name(PLAIN).is_some())
            .filter_map(|captures| reference(session, found, &captures))
            .collect();
        if is_plain || !references.is_empty() {
            return references;
        }
    }
    if let Some(node) = found.node.filter(|_| session.is_unmatched_asked && !expressions.is_empty()) {
        let looks_like_one = expressions.iter().any(|expression| expression.looks_like(&found.text));
        session.unmatched.push((node, looks_like_one));
    }
    Vec::new()
}

impl Expression {
    pub(crate) fn new(regex: Regex) -> Self {
        let (begins, ends) = (literal_start(regex.as_str()), literal_end(regex.as_str()));
        Self { regex, begins, ends }
    }

    /// Whether a text begins or ends as such references do.
    fn looks_like(&self, text: &str) -> bool {
        let is_sign = |literal: &str| !literal.is_empty() && !literal.chars().any(char::is_alphanumeric);
        is_sign(&self.begins) && text.starts_with(&self.begins)
            || is_sign(&self.ends) && text.ends_with(&self.ends)
    }
}

/// The letters and signs that all matches begin with, of an expression that is bound to the start of the text.
fn literal_start(expression: &str) -> String {
    let mut literal = String::new();
    let mut letters = expression.strip_prefix('^').unwrap_or_default().chars().peekable();
    while let Some(letter) = letters.next() {
        let (letter, is_escaped) =
            if letter == '\\' { (letters.next(), true) } else { (Some(letter), false) };
        let is_plain = |letter: &char| {
            if is_escaped { !letter.is_alphanumeric() } else { !"^$.|?*+()[]{}".contains(*letter) }
        };
        let is_repeated = letters.peek().is_some_and(|next| "?*+{".contains(*next));
        match letter.filter(is_plain) {
            Some(letter) if !is_repeated => literal.push(letter),
            _ => break,
        }
    }
    literal
}

/// The signs that all matches end with, of an expression that is bound to the end of the text.
fn literal_end(expression: &str) -> String {
    let Some(rest) = expression.strip_suffix('$') else { return String::new() };
    let mut literal: Vec<char> = Vec::new();
    let mut letters = rest.chars().rev().peekable();
    while let Some(letter) = letters.next() {
        let is_escaped = letters.peek() == Some(&'\\');
        let is_plain =
            if is_escaped { !letter.is_alphanumeric() } else { !"^$.|?*+()[]{}\\".contains(letter) };
        if !is_plain {
            break;
        }
        literal.push(letter);
        if is_escaped {
            letters.next();
        }
    }
    literal.iter().rev().collect()
}

fn reference(session: &Session<'_>, found: &FoundText<'_>, captures: &Captures<'_>) -> Option<Reference> {
    let group = |name: &str| captures.name(name).filter(|group| !group.is_empty());
    let wrapped = || group(WRAPPED).map(|group| (WRAPPED, group));
    let (kind, group_of_target) =
        TARGETS.iter().find_map(|&kind| Some((kind, group(kind)?))).or_else(wrapped)?;
    let name = session.interner.intern(group_of_target.as_str());
    let slot = group("slot").map(|slot| Named {
        name: session.interner.intern(slot.as_str()),
        span: session.part(found, slot.range()),
    });
    let key = group("key").map(|key| Named {
        name: session.interner.intern(key.as_str()),
        span: session.part(found, key.range()),
    });
    let target = target(kind, name);
    let key = key.filter(|_| matches!(target, Target::Contract(_)));
    let span = session.part(found, group_of_target.range());
    let (optional, lazy) = (group("optional").is_some(), group("lazy").is_some());
    Some(Reference { target, span, key, slot, optional, lazy })
}

/// The target that the name of a group, or of a field, stands for. A type is needed as a contract.
pub(crate) fn target(kind: &str, name: corvant_core::name::Name) -> Target {
    match kind {
        "service" => Target::Service(name),
        "tag" => Target::Tag(name),
        "setting" => Target::Setting(name),
        "all" => Target::All(name),
        WRAPPED => Target::Wrapped,
        _ => Target::Contract(name),
    }
}
