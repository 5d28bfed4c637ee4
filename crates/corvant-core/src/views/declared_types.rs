//! The types that code declares, by their full names, however those are written.

use crate::facts::DeclaredType;
use crate::wiring::Wiring;
use foldhash::{HashMap, HashSet};

/// An index of the types that code declares. Built in one pass over them.
#[derive(Debug, Default)]
pub(crate) struct DeclaredTypes<'a> {
    /// By full name with dots between its parts.
    by_name: HashMap<String, &'a DeclaredType>,
    /// What the names of types begin with: scopes, and types in which others stand.
    scopes: HashSet<String>,
    /// By the last part of their names the full ones.
    by_last_part: HashMap<String, Vec<String>>,
    /// Scopes of which not all is known; an empty one stands for all.
    doubtful: HashSet<String>,
}

impl<'a> DeclaredTypes<'a> {
    pub(crate) fn new(wiring: &'a Wiring) -> Self {
        let mut index = Self::default();
        for declared in &wiring.facts.declared_types {
            let name = with_dots(wiring.text(declared.name.name));
            if index.by_name.contains_key(&name) {
                continue;
            }
            if let Some((scope, last)) = name.rsplit_once('.') {
                index.scopes.insert(scope.to_owned());
                index.by_last_part.entry(last.to_owned()).or_default().push(name.clone());
            }
            index.by_name.insert(name, declared);
        }
        let doubtful = wiring.facts.doubtful_scopes.iter();
        let doubtful =
            doubtful.map(|scope| scope.map_or_else(String::new, |scope| with_dots(wiring.text(scope))));
        index.doubtful = doubtful.collect();
        index
    }

    /// Whether none is declared.
    pub(crate) fn is_empty(&self) -> bool {
        self.by_name.is_empty()
    }

    /// The scope of a name, with dots, where all types of that are known and it is none of them.
    pub(crate) fn lacks<'n>(&self, name: &'n str) -> Option<&'n str> {
        let (scope, _) = name.rsplit_once('.')?;
        let is_known = self.scopes.contains(scope) && !self.by_name.contains_key(name);
        let mut beginnings =
            std::iter::successors(Some(scope), |scope| scope.rsplit_once('.').map(|(around, _)| around));
        let is_doubtful = !self.doubtful.is_empty()
            && (self.doubtful.contains("") || beginnings.any(|scope| self.doubtful.contains(scope)));
        (is_known && !is_doubtful).then_some(scope)
    }

    /// A type by its full name with dots.
    pub(crate) fn get(&self, name: &str) -> Option<&'a DeclaredType> {
        self.by_name.get(name).copied()
    }

    /// All full names, in order.
    pub(crate) fn names(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.by_name.keys().map(String::as_str).collect();
        names.sort_unstable();
        names
    }

    /// The one type of another scope whose name has the same last part.
    pub(crate) fn namesake(&self, name: &str) -> Option<&str> {
        let last = name.rsplit('.').next()?;
        match self.by_last_part.get(last).map(Vec::as_slice) {
            Some([only]) => Some(only),
            _ => None,
        }
    }
}

/// A name of a type with dots between its parts, without arguments of its own.
pub(crate) fn with_dots(text: &str) -> String {
    let text = text.split('<').next().unwrap_or(text).trim();
    let dotted = text.replace("::", ".").replace(['\\', '/', '#', '$', '+'], ".");
    dotted.trim_matches('.').to_owned()
}

/// A name with dots, written as another is.
pub(crate) fn written_as(name: &str, model: &str) -> String {
    let separator = ["::", "\\", "/", "#"].into_iter().find(|separator| model.contains(separator));
    let written = name.replace('.', separator.unwrap_or("."));
    if model.starts_with('\\') { format!("\\{written}") } else { written }
}
