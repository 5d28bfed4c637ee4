//! Names of types in a file of code: what they stand for, and which of them are meant; and words that stand in a part of it.

use crate::types::outline::TypeOutline;
use crate::types::{self, CodeFile, Language, Resolver, TypePlace};
use corvant_core::source::Span;
use foldhash::HashSet;

/// What stands for a type where code is in none.
pub(super) fn outside(file: &CodeFile) -> TypeOutline {
    let scope = file.outline.scopes.first().cloned().unwrap_or_default();
    TypeOutline { name: scope.clone(), scope, ..TypeOutline::default() }
}

/// What names of types in a file stand for.
pub(crate) struct FullNames<'a> {
    file: &'a CodeFile,
    resolver: &'a Resolver<'a>,
    outside: TypeOutline,
    /// In the order in which they begin.
    types: Vec<&'a TypeOutline>,
}

impl<'a> FullNames<'a> {
    pub(crate) fn new(file: &'a CodeFile, resolver: &'a Resolver<'a>) -> Self {
        let mut types: Vec<&TypeOutline> = file.outline.types.iter().collect();
        types.sort_by_key(|one| one.at.start);
        Self { file, resolver, outside: outside(file), types }
    }

    /// The full name of a type that is named at a place of the file.
    pub(crate) fn full(&self, text: &str, at: usize) -> String {
        // What a name stands for is said by the file and the nearest type that begins before it.
        let before = self.types.partition_point(|one| one.at.start <= at).checked_sub(1);
        let inside = before.map_or(&self.outside, |before| self.types[before]);
        let place = TypePlace { file: self.file, inside };
        let open = text.find('<').filter(|_| text.ends_with('>'));
        if let Some(start) = open
            && text[start + 1..text.len() - 1].chars().all(|sign| matches!(sign, ',' | ' ' | '*' | '?'))
        {
            let count = text[start..].matches(',').count() + 1;
            let name = self.resolver.full(text[..start].trim(), place);
            return format!("{name}<{}>", vec!["*"; count].join(", "));
        }
        let of = types::type_of(text, self.file.language).and_then(|of| self.resolver.resolved(&of, place));
        of.map_or_else(|| text.to_owned(), |of| types::wires::text(&of))
    }
}

/// Whether what is named in a file is the type that is wanted, which may be said by its short name. A name that is declared nowhere is
/// one of a scope that the file sees whole.
pub(crate) fn is_called(name: &str, wanted: &str, file: &CodeFile) -> bool {
    let signs = ['.', '\\', '#'];
    let last = |name: &str| name.rsplit(signs).next().map(str::to_owned);
    if name == wanted || !wanted.contains(signs) && last(name).as_deref() == Some(wanted) {
        return true;
    }
    let scope = wanted.rsplit_once(signs).map(|(scope, _)| scope);
    let is_seen = |scope: &str| {
        let outline = &file.outline;
        outline.imports.all_of.iter().chain(&outline.scopes).any(|seen| seen == scope)
    };
    !name.contains(signs) && last(wanted).as_deref() == Some(name) && scope.is_some_and(is_seen)
}

/// Texts in quotes, and names, that stand in a part of a file, each once; without what stands in some places.
pub(crate) fn words(text: &str, within: Span, but: &HashSet<u32>, language: Language) -> Vec<String> {
    let part = &text[within.start as usize..within.end as usize];
    let words = types::words_of(part, language).into_iter();
    let is_open = |at: usize| !but.contains(&(within.start + at as u32));
    let mut words: Vec<String> = words.filter(|(at, _)| is_open(*at)).map(|(_, word)| word).collect();
    words.sort_unstable();
    words.dedup();
    words
}
