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
}

/// Names of groups that say what is meant; the last two say how.
pub(crate) const TARGETS: [&str; 5] = ["service", "contract", "type", "tag", "setting"];
/// Names of all groups.
pub(crate) const GROUPS: [&str; 8] =
    ["service", "contract", "type", "tag", "setting", "key", "optional", "lazy"];

/// What a text refers to.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Reference {
    pub(crate) target: Target,
    pub(crate) span: Span,
    pub(crate) key: Option<Named>,
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
        let references: Vec<Reference> = expression
            .regex
            .captures_iter(&found.text)
            .filter_map(|captures| reference(session, found, &captures))
            .collect();
        if !references.is_empty() {
            return references;
        }
    }
    Vec::new()
}

fn reference(session: &Session<'_>, found: &FoundText<'_>, captures: &Captures<'_>) -> Option<Reference> {
    let group = |name: &str| captures.name(name).filter(|group| !group.is_empty());
    let (kind, group_of_target) = TARGETS.iter().find_map(|&kind| Some((kind, group(kind)?)))?;
    let name = session.interner.intern(group_of_target.as_str());
    let key = group("key").map(|key| Named {
        name: session.interner.intern(key.as_str()),
        span: session.part(found, key.range()),
    });
    let target = target(kind, name);
    let key = key.filter(|_| matches!(target, Target::Contract(_)));
    let span = session.part(found, group_of_target.range());
    let (optional, lazy) = (group("optional").is_some(), group("lazy").is_some());
    Some(Reference { target, span, key, optional, lazy })
}

/// The target that the name of a group, or of a field, stands for. A type is needed as a contract.
pub(crate) fn target(kind: &str, name: corvant_core::name::Name) -> Target {
    match kind {
        "service" => Target::Service(name),
        "tag" => Target::Tag(name),
        "setting" => Target::Setting(name),
        _ => Target::Contract(name),
    }
}
