//! Types as they are written where something is declared to be of one.

use super::Language;
use super::outline::TypeUse;
use super::tokens::Tokens;
use std::ops::Range;

/// How deep type arguments are followed.
const DEEP: usize = 20;

impl Tokens<'_> {
    /// The type that some tokens are; `None`: what they say is not known.
    pub(super) fn whole_type(&self, within: Range<usize>) -> Option<TypeUse> {
        let (found, behind) = self.type_at(within.start, within.end)?;
        (behind >= within.end).then_some(found)
    }

    /// The type that begins at a token, and the number behind it.
    pub(super) fn type_at(&self, at: usize, end: usize) -> Option<(TypeUse, usize)> {
        self.alternatives(at, end, 0)
    }

    /// One type, or several of which it may be any.
    fn alternatives(&self, at: usize, end: usize, depth: usize) -> Option<(TypeUse, usize)> {
        let (first, mut behind) = self.single(at, end, depth)?;
        if !matches!(self.language, Language::Php | Language::TypeScript | Language::Python) {
            return Some((first, behind));
        }
        let mut all = vec![first];
        let mut is_nullable = false;
        while behind < end && (self.is_sign(behind, b'|') || self.is_sign(behind, b'&')) {
            let is_both = self.is_sign(behind, b'&');
            let (next, after) = self.single(behind + 1, end, depth)?;
            // What is of all of several is of the first of them.
            if !is_both {
                all.push(next);
            }
            behind = after;
        }
        let is_nothing = |one: &TypeUse| matches!(one.name.as_str(), "null" | "undefined" | "None" | "NULL");
        if all.len() > 1 {
            is_nullable = all.iter().any(is_nothing);
            all.retain(|one| !is_nothing(one));
        }
        let range = self.ranges(at..behind);
        let found = match all.len() {
            1 => {
                let only = all.remove(0);
                TypeUse { is_nullable: only.is_nullable || is_nullable, ..only }
            }
            _ => TypeUse { name: "|".to_owned(), arguments: all, is_nullable, at: range },
        };
        Some((found, behind))
    }

    fn single(&self, mut at: usize, end: usize, depth: usize) -> Option<(TypeUse, usize)> {
        if depth > DEEP || at >= end {
            return None;
        }
        let mut is_nullable = false;
        // What is said of the use of a type is none of it.
        while self.is_sign(at, b'@') {
            at = self.behind_mark_name(at + 1);
            at = if self.is_sign(at, b'(') { self.behind(at)? } else { at };
        }
        if self.is_sign(at, b'?') && self.language == Language::Php {
            (at, is_nullable) = (at + 1, true);
        }
        // `? extends Gate`, `out Gate`, `readonly Gate[]`
        if self.is_sign(at, b'?') && self.language == Language::Java {
            at += 1;
            if !matches!(self.word(at), Some("extends" | "super")) {
                let any = TypeUse { name: "Object".to_owned(), at: self.range(at - 1), ..TypeUse::default() };
                return Some((any, at));
            }
            at += 1;
        }
        let is_variance = |word: &str| match self.language {
            Language::Kotlin => matches!(word, "in" | "out"),
            Language::TypeScript => word == "readonly",
            Language::CSharp => matches!(word, "ref" | "readonly" | "scoped"),
            _ => false,
        };
        while self.word(at).is_some_and(is_variance) && self.word(at + 1).is_some() {
            at += 1;
        }
        let start = at;
        if self.is_sign(at, b'*') && self.language == Language::Kotlin {
            let any = TypeUse { name: "Any".to_owned(), at: self.range(at), ..TypeUse::default() };
            return Some((any, at + 1));
        }
        let (mut found, mut at) = self.named_type(at, end, depth)?;
        found.is_nullable |= is_nullable;
        while at < end {
            if self.is_sign(at, b'?')
                && self.language != Language::Php
                && self.language != Language::TypeScript
            {
                found.is_nullable = true;
                at += 1;
            } else if self.is_sign(at, b'[') && self.language == Language::TypeScript && self.begins_line(at)
            {
                // A member of its own.
                break;
            } else if self.is_sign(at, b'[') && self.language != Language::Php {
                // A list, however many dimensions it has.
                let between = self.partner(at)?;
                let is_index = (at + 1..between).any(|inside| !self.is_sign(inside, b','));
                if is_index {
                    return None;
                }
                at = between + 1;
                let range = self.ranges(start..at);
                found =
                    TypeUse { name: "[]".to_owned(), arguments: vec![found], is_nullable: false, at: range };
            } else {
                break;
            }
        }
        Some((found, at))
    }

    /// A name with its arguments.
    fn named_type(&self, start: usize, end: usize, depth: usize) -> Option<(TypeUse, usize)> {
        let mut at = start;
        if self.is_sign(at, super::lexer::TEXT) && self.language == Language::Python {
            // A type that is declared further below is named in quotes.
            let text = self.text[self.range(at)].trim_matches(['"', '\'']);
            let is_name =
                !text.is_empty() && text.chars().all(|one| one.is_alphanumeric() || matches!(one, '_' | '.'));
            let named = TypeUse { name: text.to_owned(), at: self.range(at), ..TypeUse::default() };
            return is_name.then_some((named, at + 1));
        }
        let mut name = String::new();
        let mut arguments = Vec::new();
        loop {
            let word = self.word(at).filter(|_| at < end)?;
            name.push_str(word);
            at += 1;
            let opens = if self.language == Language::Python { b'[' } else { b'<' };
            if self.is_sign(at, opens) && at < end && self.language != Language::Php {
                let behind = if opens == b'[' { self.behind(at)? } else { self.behind_arguments(at)? };
                arguments = self.type_arguments(at + 1..behind - 1, depth);
                at = behind;
            }
            if self.is_sign(at, b'.') && self.word(at + 1).is_some() && at + 1 < end {
                name.push('.');
                at += 1;
            } else if self.are_signs(at, b"::") && self.language == Language::CSharp {
                // The part before says where to begin to look: at the outside.
                name.clear();
                at += 2;
            } else {
                break;
            }
        }
        let found = TypeUse { name, arguments, is_nullable: false, at: self.ranges(start..at) };
        Some((found, at))
    }

    fn type_arguments(&self, within: Range<usize>, depth: usize) -> Vec<TypeUse> {
        let unknown =
            |element: &Range<usize>| TypeUse { at: self.ranges(element.clone()), ..TypeUse::default() };
        let of = |element: Range<usize>| {
            let found = self.alternatives(element.start, element.end, depth + 1);
            found
                .filter(|(_, behind)| *behind >= element.end)
                .map_or_else(|| unknown(&element), |(found, _)| found)
        };
        self.elements(within).into_iter().map(of).collect()
    }

    /// The names of type parameters between `<` and `>`.
    pub(super) fn type_parameters(&self, open: usize) -> (Vec<String>, usize) {
        let Some(behind) = self.behind_arguments(open) else { return (Vec::new(), open) };
        let is_said = |word: &&str| !matches!(*word, "in" | "out" | "reified" | "const");
        let name =
            |element: Range<usize>| element.filter_map(|at| self.word(at)).find(is_said).map(str::to_owned);
        (self.elements(open + 1..behind - 1).into_iter().filter_map(name).collect(), behind)
    }

    /// Where the type begins that ends before a token.
    pub(super) fn type_start(&self, end: usize, first: usize) -> Option<usize> {
        let first = first.max(end.saturating_sub(500));
        let mut at = end;
        loop {
            while at > first
                && (self.is_sign(at - 1, b']') || self.is_sign(at - 1, b'?') || self.is_sign(at - 1, b'*'))
            {
                at = if self.is_sign(at - 1, b']') { self.partner(at - 1)? } else { at - 1 };
            }
            if at > first && self.is_sign(at - 1, b'>') {
                let mut depth = 0_usize;
                loop {
                    at = at.checked_sub(1).filter(|&at| at >= first)?;
                    match self.all[at].sign {
                        b'>' => depth += 1,
                        b'<' => depth -= 1,
                        b')' | b']' => at = self.partner(at)?,
                        b';' | b'{' | b'}' => return None,
                        _ => {}
                    }
                    if depth == 0 {
                        break;
                    }
                }
            }
            // A list of types in brackets is no name.
            at = at.checked_sub(1).filter(|&at| at >= first && self.word(at).is_some())?;
            if at > first + 1 && self.is_sign(at - 1, b'.') {
                at -= 1;
            } else if at > first + 2 && self.are_signs(at - 2, b"::") {
                at -= 2;
            } else {
                return Some(at);
            }
        }
    }
}
