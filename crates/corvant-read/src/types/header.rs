//! The head of a type: what it is, what it inherits, and what it is built with where that stands there.

use super::Language;
use super::outline::{Callable, Parameter, TypeOutline, TypeUse};
use super::skim::{Block, Skim};
use corvant_core::facts::TypeKind;
use std::ops::Range;

impl Skim<'_> {
    /// Takes a type down whose keyword and name are given; the number of the token behind its head.
    pub(super) fn declare(&mut self, keyword: usize, name: usize) -> usize {
        let language = self.tokens.language;
        if matches!(language, Language::TypeScript | Language::Kotlin) && self.is_inside_others() {
            // What a function declares nobody else can name.
            return name + 1;
        }
        let is_mark = keyword > 0 && self.tokens.is_sign(keyword - 1, b'@');
        let before = self.tokens.before(keyword - usize::from(is_mark));
        let word = self.tokens.word(keyword).unwrap_or_default();
        let is_of_record = (keyword..name).any(|at| self.tokens.is_word(at, "record"));
        let kind = match word {
            "interface" if is_mark => TypeKind::Mark,
            "class" if before.has("annotation") => TypeKind::Mark,
            "class" if before.has("enum") => TypeKind::Enum,
            "interface" => TypeKind::Interface,
            "trait" => TypeKind::Trait,
            "enum" => TypeKind::Enum,
            "object" => TypeKind::Object,
            "typealias" | "type" => TypeKind::Alias,
            _ if is_of_record => TypeKind::Record,
            _ => TypeKind::Class,
        };
        let mut outline = TypeOutline {
            kind,
            is_abstract: before.has("abstract") || before.has("sealed") && language == Language::Kotlin,
            is_open: before.has("partial"),
            marks: before.marks.clone(),
            ..TypeOutline::default()
        };
        let mut at = name + 1;
        if self.tokens.is_sign(at, b'<') {
            (outline.type_parameters, at) = self.tokens.type_parameters(at);
        }
        if kind == TypeKind::Alias {
            let stands_for = if self.tokens.is_sign(at, b'=') {
                self.tokens.type_at(at + 1, self.tokens.len())
            } else {
                None
            };
            let stands_for = stands_for.filter(|(_, behind)| self.ends_alias(*behind));
            outline.supers.push(stands_for.map(|(found, _)| found).unwrap_or_default());
        } else {
            at = self.primary_constructor(at, name, &mut outline);
            at = self.supers(at, &mut outline);
        }
        let is_static = before.has("static") && language == Language::CSharp;
        outline.is_abstract |= is_static;
        let is_default = before.has("default") && before.has("export");
        self.declare_as(name, outline);
        if is_default && let Some(declared) = self.found.types.last() {
            self.found.imports.handed_on.push(("default".to_owned(), declared.name.clone()));
        }
        let is_followed = self.tokens.is_sign(at, b'{');
        if kind == TypeKind::Alias || language == Language::Kotlin && !is_followed {
            self.standing.waiting = None;
        }
        at
    }

    /// Whether a type that an alias stands for ends before a token.
    fn ends_alias(&self, at: usize) -> bool {
        at >= self.tokens.len() || self.tokens.is_sign(at, b';') || self.tokens.begins_line(at)
    }

    /// What a type is built with, where that stands behind its name.
    fn primary_constructor(&mut self, start: usize, name: usize, outline: &mut TypeOutline) -> usize {
        let language = self.tokens.language;
        if !matches!(language, Language::Java | Language::Kotlin | Language::CSharp) {
            return start;
        }
        let (marks, mut at) = if language == Language::Kotlin {
            self.tokens.leading_marks(start, self.tokens.len())
        } else {
            (Vec::new(), start)
        };
        let mut is_private = false;
        while language == Language::Kotlin
            && let Some(
                word
                @ ("private" | "internal" | "protected" | "public" | "actual" | "expect" | "constructor"),
            ) = self.tokens.word(at)
        {
            is_private |= word == "private";
            at += 1;
        }
        let Some(behind) = self.tokens.behind(at).filter(|_| self.tokens.is_sign(at, b'(')) else {
            return start;
        };
        let parameters = self.parameters(at + 1..behind - 1);
        outline.constructors.push(Callable {
            name: self.tokens.word(name).unwrap_or_default().to_owned(),
            at: self.tokens.range(name),
            parameters,
            is_private,
            marks,
            ..Callable::default()
        });
        behind
    }

    /// What a type inherits, and the number behind it.
    fn supers(&self, mut at: usize, outline: &mut TypeOutline) -> usize {
        match self.tokens.language {
            Language::Java | Language::Php | Language::TypeScript => {
                while let Some(word @ ("extends" | "implements" | "permits")) = self.tokens.word(at) {
                    let (all, behind) = self.list_of_types(at + 1);
                    if word != "permits" {
                        outline.supers.extend(all);
                    }
                    at = behind;
                }
            }
            Language::Kotlin | Language::CSharp if self.tokens.is_sign(at, b':') => {
                let (all, behind) = self.list_of_types(at + 1);
                outline.supers.extend(all);
                at = behind;
            }
            _ => {}
        }
        // What may stand for the parameters of the type is nothing of it.
        if self.tokens.is_word(at, "where") {
            at = self.tokens.find(at..self.tokens.len().min(at + 500), b"{;").unwrap_or(at + 1);
        }
        at
    }

    fn list_of_types(&self, mut at: usize) -> (Vec<TypeUse>, usize) {
        let mut all = Vec::new();
        let limit = self.tokens.len();
        loop {
            let found = self.tokens.type_at(at, limit).or_else(|| self.function(at));
            let Some((found, mut behind)) = found else {
                all.push(TypeUse::default());
                let end = self.tokens.find(at..limit.min(at + 500), b"{;}").unwrap_or(at + 1);
                return (all, end);
            };
            if self.tokens.is_sign(behind, b'(') {
                behind = self.tokens.behind(behind).unwrap_or(behind + 1);
            }
            if self.tokens.is_word(behind, "by") {
                behind = self.behind_delegate(behind + 1);
            }
            all.push(found);
            if !self.tokens.is_sign(behind, b',') {
                return (all, behind);
            }
            at = behind + 1;
        }
    }

    /// What can be called, as a type: `(Gate, Yard) -> Lamp`.
    fn function(&self, at: usize) -> Option<(TypeUse, usize)> {
        let at = at + usize::from(self.tokens.is_word(at, "suspend"));
        let behind = self.tokens.behind(at).filter(|_| self.tokens.is_sign(at, b'('))?;
        let returned = Some(behind + 2).filter(|_| self.tokens.are_signs(behind, b"->"))?;
        let (_, behind) = self.tokens.type_at(returned, self.tokens.len())?;
        Some((TypeUse::default(), behind))
    }

    /// The number behind what something is delegated to.
    fn behind_delegate(&self, mut at: usize) -> usize {
        while self.tokens.word(at).is_some() {
            at += 1;
            if self.tokens.is_sign(at, b'(') {
                at = self.tokens.behind(at).unwrap_or(at + 1);
            }
            if self.tokens.is_word(at - 1, "lazy") && self.tokens.is_sign(at, b'{') {
                at = self.tokens.behind(at).unwrap_or(at + 1);
            }
            if !self.tokens.is_sign(at, b'.') {
                break;
            }
            at += 1;
        }
        at
    }

    /// The parameters between two parentheses.
    pub(super) fn parameters(&self, within: Range<usize>) -> Vec<Parameter> {
        let all = self.tokens.elements(within).into_iter().map(|element| self.parameter(element));
        // What a method is called on may be written among them, for its type; nobody gives it.
        let is_receiver = |parameter: &Parameter| {
            parameter.name == "this" && matches!(self.tokens.language, Language::Java | Language::TypeScript)
        };
        all.filter(|parameter| !is_receiver(parameter)).collect()
    }

    fn parameter(&self, element: Range<usize>) -> Parameter {
        let tokens = &self.tokens;
        let (mut marks, mut at) = tokens.leading_marks(element.start, element.end);
        let mut is_variadic = false;
        while let Some(word) = tokens.word(at).filter(|_| at + 1 < element.end) {
            let is_said = match tokens.language {
                Language::Java => word == "final",
                Language::CSharp => matches!(word, "this" | "ref" | "out" | "in" | "params" | "scoped"),
                Language::Kotlin => {
                    let is_name = tokens.is_sign(at + 1, b':');
                    !is_name
                        && matches!(
                            word,
                            "private"
                                | "public"
                                | "protected"
                                | "internal"
                                | "val"
                                | "var"
                                | "vararg"
                                | "noinline"
                                | "crossinline"
                                | "override"
                                | "final"
                                | "open"
                                | "actual"
                                | "expect"
                        )
                }
                Language::Php | Language::TypeScript => {
                    let is_name = tokens.is_sign(at + 1, b':')
                        || tokens.is_sign(at + 1, b'?') && tokens.language == Language::TypeScript;
                    !is_name
                        && matches!(
                            word,
                            "private" | "public" | "protected" | "readonly" | "override" | "final"
                        )
                }
                _ => false,
            };
            if !is_said {
                break;
            }
            is_variadic |= matches!(word, "params" | "vararg");
            let (more, behind) = tokens.leading_marks(at + 1, element.end);
            marks.extend(more);
            at = behind;
        }
        let value = tokens.set_to(at..element.end);
        let end = value.unwrap_or(element.end);
        let mut parameter =
            Parameter { is_optional: value.is_some(), is_variadic, marks, ..Parameter::default() };
        match tokens.language {
            Language::Java | Language::CSharp => self.type_and_name(at..end, &mut parameter),
            Language::Php => self.type_and_variable(at..end, &mut parameter),
            _ => self.name_and_type(at..end, &mut parameter),
        }
        parameter
    }

    /// `Gate gate`, `Gate... gates`, `Gate gates[]`
    fn type_and_name(&self, within: Range<usize>, parameter: &mut Parameter) {
        let tokens = &self.tokens;
        let mut end = within.end;
        while end > within.start && tokens.is_sign(end - 1, b']') {
            end = tokens.partner(end - 1).unwrap_or(end - 1);
        }
        let is_list = end < within.end;
        let Some(name) =
            end.checked_sub(1).filter(|&name| name > within.start && tokens.word(name).is_some())
        else {
            return;
        };
        tokens.word(name).unwrap_or_default().clone_into(&mut parameter.name);
        parameter.at = tokens.range(name);
        // A name that is a keyword elsewhere has a sign before it.
        let is_marked = tokens.language == Language::CSharp && tokens.is_sign(name - 1, b'@');
        let mut of = within.start..name - usize::from(is_marked);
        if of.len() > 3 && tokens.are_signs(of.end - 3, b"...") {
            of.end -= 3;
            parameter.is_variadic = true;
        }
        let found = tokens.whole_type(of);
        parameter.type_use = found.map(|found| if is_list { listed(found) } else { found });
        if parameter.is_variadic && tokens.language == Language::CSharp {
            // A list is written, and one of its elements is what is given.
            let element = parameter.type_use.take().and_then(|mut list| list.arguments.pop());
            parameter.type_use = element;
        }
    }

    /// `?Gate $gate`, `Gate ...$gates`
    fn type_and_variable(&self, within: Range<usize>, parameter: &mut Parameter) {
        let tokens = &self.tokens;
        let Some(sign) = within.clone().find(|&at| tokens.is_sign(at, b'$')) else { return };
        tokens.word(sign + 1).unwrap_or_default().clone_into(&mut parameter.name);
        parameter.at = tokens.ranges(sign..sign + 2);
        let mut of = within.start..sign;
        if of.len() >= 3 && tokens.are_signs(of.end - 3, b"...") {
            of.end -= 3;
            parameter.is_variadic = true;
        }
        if !of.is_empty() && tokens.is_sign(of.end - 1, b'&') {
            of.end -= 1;
        }
        parameter.type_use = tokens.whole_type(of);
    }

    /// `gate: Gate`, `gate?: Gate`, `...gates: Gate[]`
    fn name_and_type(&self, within: Range<usize>, parameter: &mut Parameter) {
        let tokens = &self.tokens;
        let mut at = within.start;
        if tokens.are_signs(at, b"...") {
            at += 3;
            parameter.is_variadic = true;
        }
        let Some(name) = tokens.word(at).filter(|_| at < within.end) else { return };
        name.clone_into(&mut parameter.name);
        parameter.at = tokens.range(at);
        at += 1;
        if tokens.is_sign(at, b'?') && tokens.language == Language::TypeScript {
            parameter.is_optional = true;
            at += 1;
        }
        if tokens.is_sign(at, b':') && at + 1 < within.end {
            parameter.type_use = tokens.whole_type(at + 1..within.end);
        }
        if parameter.is_variadic && tokens.language == Language::TypeScript {
            parameter.type_use = parameter.type_use.take().and_then(|mut list| list.arguments.pop());
        }
    }

    /// Members of what has no name of its own are the members of the type around it.
    pub(super) fn companion(&mut self, at: usize) -> Option<usize> {
        let of = self.in_type()?;
        let is_companion =
            self.tokens.is_word(at, "object") && at > 0 && self.tokens.is_word(at - 1, "companion");
        if !is_companion || self.tokens.word(at + 1).is_some() {
            return None;
        }
        let is_more = self.tokens.is_sign(at + 1, b':');
        let open = if is_more { self.list_of_types(at + 2).1 } else { at + 1 };
        if self.tokens.is_sign(open, b'{') {
            self.standing.waiting = Some(Block::Type(of));
        }
        Some(open)
    }
}

/// A list of a type.
pub(super) fn listed(of: TypeUse) -> TypeUse {
    let at = of.at.clone();
    TypeUse { name: "[]".to_owned(), arguments: vec![of], is_nullable: false, at }
}
