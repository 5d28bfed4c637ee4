//! What the types of parameters stand for: lists, what may be absent, what is resolved later, plain values.

use super::Language;
use super::outline::{Literal, Mark, TypeUse, Value};
use super::resolve::{Place, Resolver};
use super::standard_library;

/// What a type around another stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Means {
    /// All that offer the other.
    All,
    /// One, or nothing.
    Optional,
    /// One that is resolved on first use.
    Lazy,
    /// A value that nothing in the wiring gives.
    Plain,
}

/// The words for what types stand for.
pub(crate) const MEANS: [(&str, Means); 4] =
    [("all", Means::All), ("optional", Means::Optional), ("lazy", Means::Lazy), ("plain", Means::Plain)];

/// What a mark says of what it stands on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Gives {
    /// The key that a parameter asks under.
    Key,
    /// The setting that a parameter takes.
    Setting,
    /// That a parameter may be absent.
    Optional,
    /// That of several constructors this one is meant.
    Constructor,
}

/// The words for what marks say.
pub(crate) const GIVES: [(&str, Gives); 4] = [
    ("key", Gives::Key),
    ("setting", Gives::Setting),
    ("optional", Gives::Optional),
    ("constructor", Gives::Constructor),
];

/// What a workspace says of types and marks.
#[derive(Clone, Debug, Default)]
pub(crate) struct Wires {
    /// By full name of a type what it stands for.
    pub(crate) types: Vec<(String, Means)>,
    /// By full name of a mark what it says.
    pub(crate) marks: Vec<(String, Gives)>,
}

impl Wires {
    /// What a mark says, by its full name.
    pub(crate) fn of_mark(&self, name: &str) -> Option<Gives> {
        let wanted = if self.marks.is_empty() { return None } else { dotted(name) };
        self.marks.iter().find(|(known, _)| dotted(known) == wanted).map(|(_, gives)| *gives)
    }

    /// What a type stands for, by its full name.
    pub(crate) fn of_type(&self, name: &str, language: Language) -> Option<Means> {
        let wanted = if self.types.is_empty() { String::new() } else { dotted(name) };
        let said = self.types.iter().find(|(known, _)| dotted(known) == wanted).map(|(_, means)| *means);
        said.or_else(|| standard_library::meaning(name, language))
    }
}

fn dotted(name: &str) -> String {
    name.trim_start_matches('\\').replace(['\\', '#', '/'], ".")
}

/// A type as a text, with its arguments.
pub(crate) fn text(of: &TypeUse) -> String {
    text_to(of, 0)
}

fn text_to(of: &TypeUse, depth: usize) -> String {
    // A name is as long as a person can read it.
    if of.arguments.is_empty() || depth > 8 {
        return of.name.clone();
    }
    let arguments: Vec<String> = of.arguments.iter().map(|one| text_to(one, depth + 1)).collect();
    match of.name.as_str() {
        "[]" => format!("{}[]", arguments[0]),
        "|" => arguments.join("|"),
        name => format!("{name}<{}>", arguments.join(", ")),
    }
}

/// The first text among the arguments of a mark, a constant followed one step.
pub(crate) fn text_of_mark(mark: &Mark, resolver: &Resolver<'_>, place: Place<'_>) -> Option<String> {
    let of = |literal: &Literal| match &literal.value {
        Value::Text(text) | Value::Number(text) => Some(text.clone()),
        Value::Name(name) => {
            let constant = resolver.constant(name, place).map(str::to_owned);
            constant.or_else(|| name.rsplit('.').next().map(str::to_owned))
        }
        Value::Type(name) => Some(resolver.full(name, place)),
        Value::Flag(_) | Value::List(_) => None,
    };
    let named = mark.named.iter().map(|(_, literal)| literal);
    mark.arguments.iter().chain(named).find_map(of)
}
