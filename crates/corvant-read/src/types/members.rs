//! Members of types: constructors, methods, fields, constants.

use super::lexer::{NUMBER, TEXT};
use super::marks::Before;
use super::outline::{Callable, FieldOutline, Literal, TypeUse};
use super::skim::Skim;
use super::{Language, Methods};
use corvant_core::facts::TypeKind;
use std::ops::Range;

/// How many members of one type are kept.
const MOST: usize = 10_000;

impl Skim<'_> {
    /// A word at the level of a type's members; the number of the token to go on with.
    pub(super) fn member(&mut self, of: usize, at: usize) -> usize {
        match self.tokens.language {
            Language::Java | Language::CSharp => self.typed_method(of, at),
            Language::Kotlin => self.kotlin_member(of, at),
            Language::Php => self.php_member(of, at),
            Language::TypeScript => self.script_member(of, at),
            _ => at + 1,
        }
    }

    /// Whether what stands in a type's braces begins with a list of its values.
    pub(super) fn is_list_of_values(&self, number: usize) -> bool {
        let is_enum = self.found.types[number].kind == TypeKind::Enum;
        is_enum
            && matches!(
                self.tokens.language,
                Language::Java | Language::CSharp | Language::Kotlin | Language::TypeScript
            )
    }

    fn short_name(&self, of: usize) -> &str {
        let at = self.found.types[of].at.clone();
        self.tokens.text[at].trim_matches('`')
    }

    fn add_method(&mut self, of: usize, method: Callable) {
        let of = &mut self.found.types[of];
        if of.methods.len() < MOST {
            of.methods.push(method);
        }
    }

    fn add_constructor(&mut self, of: usize, constructor: Callable) {
        let of = &mut self.found.types[of];
        if of.constructors.len() < MOST {
            of.constructors.push(constructor);
        }
    }

    fn add_field(&mut self, of: usize, field: FieldOutline) {
        let of = &mut self.found.types[of];
        if of.fields.len() < MOST {
            of.fields.push(field);
        }
    }

    fn callable(&self, name: usize, parameters: Range<usize>, before: &Before<'_>) -> Callable {
        Callable {
            name: self.tokens.word(name).unwrap_or_default().to_owned(),
            at: self.tokens.range(name),
            parameters: self.parameters(parameters),
            returns: None,
            is_static: before.has("static"),
            is_abstract: before.has("abstract"),
            is_private: before.has("private"),
            marks: before.marks.clone(),
        }
    }

    /// A method, as much of it as is asked for: what builds its type is always read whole.
    fn method<'s>(
        &'s self,
        name: usize,
        parameters: Range<usize>,
        before: impl FnOnce() -> Before<'s>,
        builds: bool,
    ) -> Callable {
        if builds || self.methods == Methods::Whole {
            return self.callable(name, parameters, &before());
        }
        let text = self.tokens.word(name).unwrap_or_default();
        Callable { name: text.to_owned(), at: self.tokens.range(name), ..Callable::default() }
    }

    /// `Gate open(Yard yard)`, `Gate(Yard yard)`
    fn typed_method(&mut self, of: usize, name: usize) -> usize {
        if self.tokens.is_word(name, "operator") && self.tokens.language == Language::CSharp {
            return name + 1;
        }
        let mut open = name + 1;
        if self.tokens.is_sign(open, b'<') && self.tokens.language == Language::CSharp {
            open = self.tokens.behind_arguments(open).unwrap_or(open);
        }
        let Some(behind) = self.tokens.behind(open).filter(|_| self.tokens.is_sign(open, b'(')) else {
            return name + 1;
        };
        let is_destructor = name > 0 && self.tokens.is_sign(name - 1, b'~');
        match self.start_of_type_before(name) {
            Some(start) => {
                let before = || self.tokens.before(self.before_parameters_of_type(start));
                let mut method = self.method(name, open + 1..behind - 1, before, false);
                if self.methods == Methods::Whole {
                    method.returns = self.tokens.whole_type(start..name);
                }
                self.add_method(of, method);
            }
            None if name > 0 && self.tokens.is_word(name - 1, "operator") => {}
            None if self.ends_tuple(name) => {
                let method = self.method(name, open + 1..behind - 1, Before::default, false);
                self.add_method(of, method);
            }
            None if self.tokens.word(name) == Some(self.short_name(of)) && !is_destructor => {
                let before = self.tokens.before(name);
                if !before.has("static") {
                    let constructor = self.callable(name, open + 1..behind - 1, &before);
                    self.add_constructor(of, constructor);
                }
            }
            None => {}
        }
        behind
    }

    /// Whether several types in one stand before a name.
    fn ends_tuple(&self, name: usize) -> bool {
        let is_tuple =
            self.tokens.language == Language::CSharp && name > 0 && self.tokens.is_sign(name - 1, b')');
        is_tuple
            && self.tokens.partner(name - 1).and_then(|open| open.checked_sub(1)).is_some_and(|before| {
                let is_after_member = b";{}]".iter().any(|&sign| self.tokens.is_sign(before, sign));
                is_after_member || self.tokens.word(before).is_some_and(super::marks::is_modifier_alone)
            })
    }

    /// The type that stands before a name, and where it begins; `None`: none does.
    fn type_before(&self, name: usize) -> Option<(Option<TypeUse>, usize)> {
        self.start_of_type_before(name).map(|start| (self.tokens.whole_type(start..name), start))
    }

    fn start_of_type_before(&self, name: usize) -> Option<usize> {
        let start = self.tokens.type_start(name, 0)?;
        let is_type = start < name
            && !super::marks::is_modifier_alone(self.tokens.word(start)?)
            && self.tokens.behind_mark(start).is_none();
        is_type.then_some(start)
    }

    /// Before the parameters that a method has of its own: `<T> T open()`.
    fn before_parameters_of_type(&self, start: usize) -> usize {
        if self.tokens.language != Language::Java || start == 0 || !self.tokens.is_sign(start - 1, b'>') {
            return start;
        }
        let mut depth = 0_usize;
        for at in (start.saturating_sub(100)..start).rev() {
            match self.tokens.all[at].sign {
                b'>' => depth += 1,
                b'<' if depth == 1 => return at,
                b'<' => depth -= 1,
                _ => {}
            }
        }
        start
    }

    /// A field or property before its value, its accessors or its end: `private final Yard yard = …`.
    pub(super) fn property(&mut self, end: usize) {
        let Some(of) = self.in_type() else { return };
        let is_here = match self.tokens.language {
            Language::Java => !self.tokens.is_sign(end, b'{'),
            Language::CSharp => true,
            _ => false,
        };
        let Some(name) = end.checked_sub(1).filter(|&name| is_here && self.tokens.word(name).is_some())
        else {
            return;
        };
        let Some((type_use, start)) = self.type_before(name) else { return };
        let before = self.tokens.before(start);
        let is_there = type_use.as_ref().is_none_or(|found| {
            !matches!(
                found.name.as_str(),
                "throws" | "return" | "event" | "case" | "extends" | "implements" | "where"
            )
        });
        if !is_there {
            return;
        }
        let value = if self.tokens.is_sign(end, b'=') && !self.tokens.are_signs(end, b"=>") {
            self.value(end + 1)
        } else {
            None
        };
        let field = FieldOutline {
            name: self.tokens.word(name).unwrap_or_default().to_owned(),
            at: self.tokens.range(name),
            type_use,
            marks: before.marks,
            value,
        };
        self.add_field(of, field);
    }

    /// What something is set to, where that is a literal.
    fn value(&self, start: usize) -> Option<Literal> {
        let first = self.tokens.all.get(start)?.sign;
        if first != TEXT && first != NUMBER && self.tokens.word(start).is_none() {
            return None;
        }
        let ends_in_line = matches!(self.tokens.language, Language::Kotlin | Language::TypeScript);
        let mut end = start + 1;
        while end < self.tokens.len().min(start + 40)
            && ![b';', b'}', b','].into_iter().any(|sign| self.tokens.is_sign(end, sign))
            && !(ends_in_line && self.tokens.begins_line(end))
        {
            end += 1;
        }
        self.tokens.literal(start..end)
    }

    fn kotlin_member(&mut self, of: usize, at: usize) -> usize {
        if let Some(open) = self.companion(at) {
            return open;
        }
        match self.tokens.word(at) {
            Some("fun") => self.kotlin_method(of, at),
            Some("constructor") if self.tokens.is_sign(at + 1, b'(') => {
                let Some(behind) = self.tokens.behind(at + 1) else { return at + 1 };
                let before = self.tokens.before(at);
                let mut constructor = self.callable(at, at + 2..behind - 1, &before);
                self.short_name(of).clone_into(&mut constructor.name);
                self.add_constructor(of, constructor);
                behind
            }
            Some("val" | "var") => {
                let Some(name) = self.tokens.word(at + 1) else { return at + 1 };
                let name = name.to_owned();
                let mut behind = at + 2;
                let mut type_use = None;
                if self.tokens.is_sign(behind, b':')
                    && let Some((found, after)) = self.tokens.type_at(behind + 1, self.tokens.len())
                {
                    (type_use, behind) = (Some(found), after);
                }
                let value = if self.tokens.is_sign(behind, b'=') { self.value(behind + 1) } else { None };
                let marks = self.tokens.before(at).marks;
                self.add_field(
                    of,
                    FieldOutline { name, at: self.tokens.range(at + 1), type_use, marks, value },
                );
                behind
            }
            _ => at + 1,
        }
    }

    /// `fun <T> Yard.open(gate: Gate): T`
    fn kotlin_method(&mut self, of: usize, at: usize) -> usize {
        let mut name = at + 1;
        if self.tokens.is_sign(name, b'<') {
            name = self.tokens.behind_arguments(name).unwrap_or(name + 1);
        }
        let mut is_extension = false;
        if self.tokens.is_sign(name, b'(') {
            let Some(behind) = self.tokens.behind(name) else { return at + 1 };
            let dot = behind + usize::from(self.tokens.is_sign(behind, b'?'));
            if !self.tokens.is_sign(dot, b'.') {
                return at + 1;
            }
            (name, is_extension) = (dot + 1, true);
        }
        while self.tokens.word(name).is_some() && !self.tokens.is_sign(name + 1, b'(') {
            let Some((_, behind)) = self.tokens.type_at(name, self.tokens.len().min(name + 100)) else {
                return at + 1;
            };
            // The last part of a name with dots is that of the method.
            if self.tokens.is_sign(behind, b'(') && behind >= 2 && self.tokens.is_sign(behind - 2, b'.') {
                name = behind - 1;
                is_extension = true;
                break;
            }
            if !self.tokens.is_sign(behind, b'.') {
                return at + 1;
            }
            is_extension = true;
            name = behind + 1;
        }
        let Some(behind) = self.tokens.behind(name + 1).filter(|_| self.tokens.is_sign(name + 1, b'('))
        else {
            return at + 1;
        };
        let mut method = self.method(name, name + 2..behind - 1, || self.tokens.before(at), false);
        let mut after = behind;
        if self.tokens.is_sign(behind, b':')
            && let Some((returns, end)) = self.tokens.type_at(behind + 1, self.tokens.len())
        {
            (method.returns, after) = (Some(returns), end);
        }
        if !is_extension {
            self.add_method(of, method);
        }
        after
    }

    fn php_member(&mut self, of: usize, at: usize) -> usize {
        match self.tokens.word(at) {
            Some("function") => {
                let name = at + 1 + usize::from(self.tokens.is_sign(at + 1, b'&'));
                let open = name + 1;
                let Some(behind) = self.tokens.behind(open).filter(|_| self.tokens.is_sign(open, b'('))
                else {
                    return at + 1;
                };
                let before = || self.tokens.before(at);
                let builds =
                    self.tokens.word(name).is_some_and(|name| name.eq_ignore_ascii_case("__construct"));
                let mut method = self.method(name, open + 1..behind - 1, before, builds);
                let mut after = behind;
                if self.tokens.is_sign(behind, b':')
                    && let Some((returns, end)) = self.tokens.type_at(behind + 1, self.tokens.len())
                {
                    (method.returns, after) = (Some(returns), end);
                }
                if builds {
                    self.add_constructor(of, method);
                } else {
                    self.add_method(of, method);
                }
                after
            }
            Some("const") => {
                let end = self.tokens.find(at..self.tokens.len(), b"=;}").unwrap_or(self.tokens.len());
                self.constant(of, end);
                self.tokens.find(end..self.tokens.len(), b";}").unwrap_or(self.tokens.len())
            }
            Some("case") => {
                let end = self.tokens.find(at..self.tokens.len(), b"=;}").unwrap_or(self.tokens.len());
                self.constant(of, end);
                end
            }
            Some("use") => {
                let end = self.tokens.find(at..self.tokens.len(), b";{").unwrap_or(self.tokens.len());
                for element in self.tokens.elements(at + 1..end) {
                    let used = self.tokens.whole_type(element).unwrap_or_default();
                    self.found.types[of].supers.push(used);
                }
                // Their methods may be given other names.
                self.found.types[of].is_open |= self.tokens.is_sign(end, b'{');
                end
            }
            _ => at + 1,
        }
    }

    /// A constant that is set behind a sign.
    fn constant(&mut self, of: usize, sign: usize) {
        let Some(name) = sign.checked_sub(1).and_then(|name| self.tokens.word(name)) else { return };
        let value = if self.tokens.is_sign(sign, b'=') { self.value(sign + 1) } else { None };
        let (name, at) = (name.to_owned(), self.tokens.range(sign - 1));
        self.add_field(of, FieldOutline { name, at, type_use: None, marks: Vec::new(), value });
    }

    /// `private ?Gate $gate = null;`
    pub(super) fn php_property(&mut self, sign: usize) -> usize {
        let Some(of) = self.in_type() else { return sign + 1 };
        let mut start = sign;
        let is_type = |at: usize| {
            self.tokens.word(at).is_some_and(|word| !super::marks::is_modifier_alone(word))
                || [b'?', b'|', b'&', b'(', b')'].into_iter().any(|of| self.tokens.is_sign(at, of))
        };
        while start > sign.saturating_sub(50) && is_type(start - 1) {
            start -= 1;
        }
        let before = self.tokens.before(start);
        let Some(name) = self.tokens.word(sign + 1) else { return sign + 1 };
        let field = FieldOutline {
            name: name.to_owned(),
            at: self.tokens.ranges(sign..sign + 2),
            type_use: self.tokens.whole_type(start..sign),
            marks: before.marks,
            value: if self.tokens.is_sign(sign + 2, b'=') { self.value(sign + 3) } else { None },
        };
        self.add_field(of, field);
        self.tokens.find(sign + 2..self.tokens.len(), b";{}").unwrap_or(self.tokens.len())
    }

    fn script_member(&mut self, of: usize, at: usize) -> usize {
        // What cannot be changed is a type in parentheses, and no method.
        let in_type = |before: usize| b":|&<,".iter().any(|&sign| self.tokens.is_sign(before, sign));
        if matches!(self.tokens.word(at), Some("readonly" | "keyof"))
            && at.checked_sub(1).is_some_and(in_type)
        {
            return at + 1;
        }
        let mut open = at + 1;
        if self.tokens.is_sign(open, b'?') {
            open += 1;
        }
        if self.tokens.is_sign(open, b'<') {
            open = self.tokens.behind_arguments(open).unwrap_or(open);
        }
        if self.tokens.is_sign(open, b'(') {
            let Some(behind) = self.tokens.behind(open) else { return at + 1 };
            let is_interface = self.found.types[of].kind == TypeKind::Interface;
            let builds = self.tokens.word(at) == Some("constructor") && !is_interface;
            let before = || self.tokens.before(self.before_accessor(at));
            let mut method = self.method(at, open + 1..behind - 1, before, builds);
            let mut after = behind;
            if self.tokens.is_sign(behind, b':')
                && let Some((returns, end)) = self.tokens.type_at(behind + 1, self.tokens.len())
            {
                (method.returns, after) = (Some(returns), end);
            }
            if builds {
                self.add_constructor(of, method);
            } else if method.name != "new" || !is_interface {
                self.add_method(of, method);
            }
            return after;
        }
        let mut colon = at + 1;
        if self.tokens.is_sign(colon, b'?') || self.tokens.is_sign(colon, b'!') {
            colon += 1;
        }
        let is_set = self.tokens.is_sign(colon, b'=') && !self.tokens.are_signs(colon, b"=>");
        if !self.tokens.is_sign(colon, b':') && !is_set {
            return at + 1;
        }
        let end = self.script_end(colon + 1);
        let value = self.tokens.set_to(colon..end);
        let of_type = colon + 1..value.unwrap_or(end);
        let field = FieldOutline {
            name: self.tokens.word(at).unwrap_or_default().to_owned(),
            at: self.tokens.range(at),
            type_use: if is_set { None } else { self.tokens.whole_type(of_type) },
            marks: self.tokens.before(at).marks,
            value: value.and_then(|value| self.value(value + 1)),
        };
        self.add_field(of, field);
        end
    }

    fn before_accessor(&self, at: usize) -> usize {
        let is_accessor = at > 0 && matches!(self.tokens.word(at - 1), Some("get" | "set"));
        at - usize::from(is_accessor)
    }

    /// Where what begins at a token ends, in a language that needs no sign for that.
    pub(super) fn script_end(&self, start: usize) -> usize {
        let mut at = start;
        while at < self.tokens.len() {
            let sign = self.tokens.all[at].sign;
            if matches!(sign, b';' | b'}' | b',') {
                return at;
            }
            let is_next = at > start
                && self.tokens.begins_line(at)
                && (sign == 0 || sign == b'@' || sign == b'[')
                && matches!(
                    self.tokens.all[at - 1].sign,
                    0 | TEXT | NUMBER | b')' | b']' | b'}' | super::lexer::CODED_TEXT | b'>'
                );
            if is_next
                && !self.tokens.are_signs(at - 1, b"=>")
                && !(at > 1 && self.tokens.are_signs(at - 2, b"=>"))
            {
                return at;
            }
            at = match sign {
                b'(' | b'[' | b'{' => self.tokens.behind(at).unwrap_or(at + 1),
                _ => at + 1,
            };
        }
        at
    }
}
