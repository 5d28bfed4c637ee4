//! One item while its fields are asked for.

use super::field::{Field, FoundText, Origin};
use super::path::{Path, Selected};
use super::session::Session;
use corvant_core::facts::{Many, Named};
use corvant_core::name::Name;
use corvant_core::wiring::USE;

/// Fields that are often known only once the code runs, and of which nothing depends on that.
const COMPUTED_FREELY: [&str; 7] = ["type", "value", "at", "slot", "method", "lifetime", "built-by"];

/// The fields of one item, as the takes below them ask for them.
pub(crate) struct Item<'a, 'tree> {
    pub(crate) session: &'a mut Session<'tree>,
    pub(crate) fields: &'a [(&'static str, Field)],
    pub(crate) at: Selected,
    /// What else says something of it: fields, and where they start from.
    pub(crate) others: &'a [(&'a [(&'static str, Field)], Selected)],
}

impl<'tree> Item<'_, 'tree> {
    pub(crate) fn field(&self, name: &str) -> Option<&Field> {
        self.fields.iter().find(|(known, _)| *known == name).map(|(_, field)| field)
    }

    pub(crate) fn found(&mut self, name: &str) -> Option<FoundText<'tree>> {
        self.all(name).into_iter().next()
    }

    pub(crate) fn all(&mut self, name: &str) -> Vec<FoundText<'tree>> {
        let mut all = Vec::new();
        let noted = self.session.computed.len();
        for &(fields, at) in [(self.fields, self.at)].iter().chain(self.others) {
            if let Some((_, field)) = fields.iter().find(|(known, _)| *known == name) {
                all.extend(field.all(self.session, at));
            }
        }
        if COMPUTED_FREELY.contains(&name) {
            self.session.computed.truncate(noted);
        }
        all
    }

    /// Whether what stands where one of some fields is looked for is known only once the code runs.
    pub(crate) fn is_computed(&mut self, names: &[&str]) -> bool {
        if self.session.code.is_none() {
            return false;
        }
        let noted = self.session.computed.len();
        for name in names {
            self.all(name);
        }
        self.session.computed.len() > noted
    }

    pub(crate) fn name(&mut self, name: &str) -> Option<Named> {
        Some(self.found(name)?.named(self.session))
    }

    pub(crate) fn names(&mut self, name: &str) -> Many<Named> {
        let all = self.all(name);
        let named: Vec<Named> = all.iter().map(|found| found.named(self.session)).collect();
        let start = self.session.facts.parts.named.len();
        self.session.facts.parts.named.extend(named);
        Many::since(start, &self.session.facts.parts)
    }

    /// Whether anything stands where a field is looked for.
    pub(crate) fn is_written(&self, name: &str) -> bool {
        let tree = self.session.tree;
        let is_there = |at: Selected, path: &Path| !path.select(tree, at).is_empty();
        [(self.fields, self.at)].iter().chain(self.others).any(|&(fields, at)| {
            let field = fields.iter().find(|(known, _)| *known == name);
            field.is_some_and(|(_, field)| match &field.origin {
                Origin::Path(path) => is_there(at, path),
                Origin::Any(_) => field.paths().into_iter().any(|path| is_there(at, path)),
                Origin::Key(_)
                | Origin::Constant(_)
                | Origin::Joined(_)
                | Origin::InPath(_)
                | Origin::Number
                | Origin::KeyPath => true,
            })
        })
    }

    pub(crate) fn word(&mut self, name: &str) -> Option<Name> {
        Some(self.name(name)?.name)
    }

    /// A lifetime, if the workspace knows it.
    pub(crate) fn lifetime(&mut self, name: &str) -> Option<Named> {
        let found = self.found(name)?;
        let lifetimes = self.session.lifetimes;
        if found.text == USE || lifetimes.iter().any(|known| *known == found.text) {
            return Some(found.named(self.session));
        }
        let message =
            format!("no lifetime is called {}; there are {} and {USE}", found.text, lifetimes.join(", "));
        self.strange(&found, message);
        None
    }

    /// Whether something is said to be so.
    pub(crate) fn flag(&mut self, name: &str) -> bool {
        let Some(found) = self.found(name) else { return false };
        match found.text.to_lowercase().as_str() {
            "true" | "yes" | "on" | "1" | "y" => true,
            "false" | "no" | "off" | "0" | "n" => false,
            _ => {
                self.strange(&found, format!("`{name}` is yes or no, and here is {}", found.text));
                false
            }
        }
    }

    /// One of a closed set of words.
    pub(crate) fn one_of(&mut self, name: &str, words: &[&str]) -> Option<FoundText<'tree>> {
        let found = self.found(name)?;
        if words.contains(&found.text.as_ref()) {
            return Some(found);
        }
        self.strange(&found, format!("`{name}` is one of {}, and here is {}", words.join(", "), found.text));
        None
    }

    /// How many there are of something.
    pub(crate) fn count(&mut self, name: &str) -> Option<u32> {
        let found = self.found(name)?;
        let count = found.text.parse().ok();
        if count.is_none() {
            self.strange(&found, format!("`{name}` is a number, and here is {}", found.text));
        }
        count
    }

    pub(crate) fn strange(&mut self, found: &FoundText<'_>, message: String) {
        self.session.misshapen.push((found.node.unwrap_or(self.at.node), message));
    }
}
