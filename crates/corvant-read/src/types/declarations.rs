//! Declarations of types among words and signs: names, by the words before them and the braces around them.

use super::Language;
use super::lexer::{BRANCH_AGAIN, BRANCH_BEGINS, BRANCHES_END, Doubt, Token, tokens};
use std::ops::Range;

/// A type that is declared in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Declared {
    /// Its full name, in the language's own writing.
    pub(super) name: String,
    /// Where its own name stands.
    pub(super) at: Range<usize>,
}

/// What a text declares.
#[derive(Debug, Default, PartialEq, Eq)]
pub(super) struct Declarations {
    /// The scopes that are named: packages, namespaces.
    pub(super) scopes: Vec<String>,
    pub(super) types: Vec<Declared>,
}

/// How deep types and scopes, and conditions, may stand in one another.
const NESTED: usize = 100;
/// How many braces may be open where a condition begins.
const OPEN: usize = 1_000;

/// Where the braces are.
#[derive(Clone, Default)]
struct Standing {
    /// By braces that are open whether they are around a type or a scope.
    blocks: Vec<bool>,
    /// The full names of those.
    names: Vec<String>,
    /// A declaration whose braces are still to come.
    waiting: Option<String>,
    /// How many parentheses and brackets are open.
    open: usize,
}

struct Reader<'t> {
    text: &'t str,
    language: Language,
    tokens: &'t [Token],
    found: Declarations,
    /// The scope of the whole file.
    scope: String,
    standing: Standing,
    /// For each condition around, where the braces were when it began: there each of its branches begins.
    conditions: Vec<Standing>,
}

/// The types that a text declares and the scopes that it names, up to where it is in doubt.
pub(super) fn declarations(text: &str, language: Language) -> (Declarations, Option<Doubt>) {
    let (tokens, doubt) = tokens(text, language);
    let mut reader = Reader {
        text,
        language,
        tokens: &tokens,
        found: Declarations::default(),
        scope: String::new(),
        standing: Standing::default(),
        conditions: Vec::new(),
    };
    let mut at = 0;
    while at < tokens.len() {
        match reader.token(at) {
            Ok(next) => at = next,
            Err(doubt) => return (reader.found, Some(doubt)),
        }
    }
    let is_open = doubt.is_none() && !reader.standing.blocks.is_empty();
    let open = is_open.then_some(Doubt { at: text.len(), why: "braces are left open" });
    (reader.found, doubt.or(open))
}

impl<'t> Reader<'t> {
    fn word(&self, at: usize) -> Option<&'t str> {
        let token = self.tokens.get(at).filter(|token| token.is(0))?;
        Some(&self.text[token.range()])
    }

    fn is_sign(&self, at: usize, sign: u8) -> bool {
        self.tokens.get(at).is_some_and(|token| token.is(sign))
    }

    /// Reads one token, and gives the number of the next.
    fn token(&mut self, at: usize) -> Result<usize, Doubt> {
        let token = self.tokens[at];
        match token.sign {
            0 => return Ok(self.of_word(at)),
            BRANCH_BEGINS if self.conditions.len() < NESTED && self.standing.blocks.len() < OPEN => {
                self.conditions.push(self.standing.clone());
            }
            BRANCH_BEGINS => {
                return Err(Doubt {
                    at: token.range().start,
                    why: "conditions stand in one another too deep",
                });
            }
            BRANCH_AGAIN => self.standing = self.conditions.last().cloned().unwrap_or_default(),
            BRANCHES_END => drop(self.conditions.pop()),
            b'(' | b'[' => self.standing.open += 1,
            b')' | b']' => self.standing.open = self.standing.open.saturating_sub(1),
            b'{' => {
                let name = if self.standing.open == 0 { self.standing.waiting.take() } else { None };
                self.standing.blocks.push(name.is_some());
                self.standing.names.extend(name);
                if self.standing.names.len() > NESTED {
                    return Err(Doubt {
                        at: token.range().start,
                        why: "types stand in one another too deep",
                    });
                }
            }
            b'}' => {
                let why = "a brace is closed that is not open";
                if self.standing.blocks.pop().ok_or(Doubt { at: token.range().start, why })? {
                    self.standing.names.pop();
                }
            }
            b';' if self.standing.open == 0 => self.standing.waiting = None,
            _ => {}
        }
        Ok(at + 1)
    }

    fn of_word(&mut self, at: usize) -> usize {
        let Some(word) = self.word(at) else { return at + 1 };
        if self.is_part_of_expression(at) {
            return at + 1;
        }
        match (self.language, word) {
            (Language::Java | Language::Kotlin, "package")
            | (Language::CSharp | Language::Php, "namespace") => self.scope(at + 1),
            (Language::CSharp, "delegate") => self.delegate(at + 1),
            _ => match self.declared(word, at) {
                Some(name) => {
                    self.declare(name);
                    name + 1
                }
                None => at + 1,
            },
        }
    }

    /// Whether what stands before a word makes it a part of something else: `Gate.class`, `Gate::class`.
    fn is_part_of_expression(&self, at: usize) -> bool {
        let Some(before) = at.checked_sub(1) else { return false };
        let is_arrow = || self.is_sign(before, b'>') && before > 0 && self.is_sign(before - 1, b'-');
        self.is_sign(before, b'.')
            || self.is_sign(before, b':') && self.language != Language::Java
            || self.is_sign(before, b'$')
            || is_arrow()
            || self.word(before) == Some("new")
    }

    /// The number of the token that is the name of the type which a word declares; `None`: it declares none.
    fn declared(&self, word: &str, at: usize) -> Option<usize> {
        let name = |at: usize| self.word(at).filter(|name| !is_reserved(name)).map(|_| at);
        let has_body = |at: usize| {
            [b'(', b'<', b'{', b';', b':'].into_iter().any(|sign| self.is_sign(at + 1, sign))
                || matches!(self.word(at + 1), Some("implements" | "extends" | "where"))
        };
        match (self.language, word) {
            (_, "class" | "interface")
            | (Language::Java, "enum")
            | (Language::CSharp, "struct" | "enum")
            | (Language::Kotlin, "object" | "typealias") => name(at + 1),
            (Language::Java, "record") => {
                name(at + 1).filter(|&name| self.is_sign(name + 1, b'(') || self.is_sign(name + 1, b'<'))
            }
            (Language::Php, "trait" | "enum") => name(at + 1).filter(|&name| has_body(name)),
            (Language::CSharp, "record") => {
                let skipped = matches!(self.word(at + 1), Some("class" | "struct"));
                name(at + 1 + usize::from(skipped)).filter(|&name| has_body(name))
            }
            _ => None,
        }
    }

    /// A type that is like a method: its name stands before its parameters.
    fn delegate(&mut self, mut at: usize) -> usize {
        let start = at;
        while at < self.tokens.len() && ![b'(', b';', b'{'].into_iter().any(|sign| self.is_sign(at, sign)) {
            at += 1;
        }
        // Behind the name may be type parameters.
        let mut name = at.checked_sub(1).filter(|&name| name >= start);
        if name.is_some_and(|name| self.is_sign(name, b'>')) {
            name =
                (start..at).rev().find(|&open| self.is_sign(open, b'<')).and_then(|open| open.checked_sub(1));
        }
        if let Some(name) = name.filter(|&name| self.is_sign(at, b'(') && self.word(name).is_some()) {
            self.declare(name);
            self.standing.waiting = None;
        }
        at.max(start)
    }

    fn declare(&mut self, name: usize) {
        let (token, text) = (self.tokens[name], self.word(name).unwrap_or_default());
        let around = self.standing.names.last().unwrap_or(&self.scope);
        let separator = if self.language == Language::Php { '\\' } else { '.' };
        let full = if around.is_empty() { text.to_owned() } else { format!("{around}{separator}{text}") };
        self.found.types.push(Declared { name: full.clone(), at: token.range() });
        self.standing.waiting = Some(full);
    }

    /// A package or namespace: for the whole file, or for what is in its braces.
    fn scope(&mut self, mut at: usize) -> usize {
        let mut name = String::new();
        while let Some(part) = self.word(at) {
            name.push_str(part.trim_start_matches('\\'));
            at += 1;
            if !self.is_sign(at, b'.') {
                break;
            }
            name.push('.');
            at += 1;
        }
        if name.is_empty() && !self.is_sign(at, b'{') {
            return at;
        }
        let is_block = self.is_sign(at, b'{');
        if let Some(around) =
            self.standing.names.last().filter(|_| is_block && self.language == Language::CSharp)
        {
            name = format!("{around}.{name}");
        }
        self.found.scopes.push(name.clone());
        if is_block {
            self.standing.waiting = Some(name);
        } else {
            self.scope = name;
            self.standing.waiting = None;
        }
        at
    }
}

/// Words that stand where a name might, and are none.
fn is_reserved(word: &str) -> bool {
    matches!(
        word,
        "where" | "new" | "extends" | "implements" | "in" | "out" | "is" | "as" | "by" | "class" | "struct"
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn names(language: Language, text: &str) -> Vec<String> {
        let (found, doubt) = declarations(text, language);
        assert_eq!(doubt, None);
        for declared in &found.types {
            assert!(declared.name.ends_with(&text[declared.at.clone()]));
        }
        found.types.into_iter().map(|declared| declared.name).collect()
    }

    #[rstest]
    #[case::kinds(
        "package velmora.depot;\nimport velmora.Part;\npublic final class Gate<T extends Part> extends Door implements Part { }\ninterface Door {}\nenum Side { LEFT { void open() {} }, RIGHT }\nrecord Track(int number) {}\n@interface Shared { String value() default \"x\"; }",
        &["velmora.depot.Gate", "velmora.depot.Door", "velmora.depot.Side", "velmora.depot.Track", "velmora.depot.Shared"]
    )]
    #[case::nested("package a; class Outer { static class Inner { interface Deep {} } Object x = Outer.class; }", &["a.Outer", "a.Outer.Inner", "a.Outer.Inner.Deep"])]
    #[case::without_a_package("class Gate {}", &["Gate"])]
    #[case::comments_and_strings(
        "package a; // class No {\n/* class No { */ class Yes { String s = \"class No { \\\" \"; char c = '{', d = '\\''; String t = \"\"\"\n class No { \" \\\"\"\" \"\"\"; }",
        &["a.Yes"]
    )]
    #[case::a_record_that_is_a_name("package a; class Gate { int record = 5; void record(int record) { record.x(); } }", &["a.Gate"])]
    #[case::arguments_of_marks("package a; @Mark({ \"x\", \"y\" }) @Other(of = Gate.class) class Gate { }", &["a.Gate"])]
    #[case::lambdas("package a; class Gate { Runnable r = () -> { class Local {} }; } class Lamp {}", &["a.Gate", "a.Gate.Local", "a.Lamp"])]
    #[case::letters_of_the_world("package žlutá; class Trať {}", &["žlutá.Trať"])]
    fn java(#[case] text: &str, #[case] expected: &[&str]) {
        assert_eq!(names(Language::Java, text), expected);
    }

    #[rstest]
    #[case::kinds(
        "package velmora.depot\n\nimport velmora.Part\n\ndata class Gate(val part: Part = Part { it }) : Door by lazy { x }\nsealed interface Door\nobject Yard\nenum class Side { LEFT, RIGHT }\ntypealias Tracks = List<Gate>\nfun make() = object : Door { }",
        &["velmora.depot.Gate", "velmora.depot.Door", "velmora.depot.Yard", "velmora.depot.Side", "velmora.depot.Tracks"]
    )]
    #[case::bodies_are_optional("package a\nclass One\nclass Two { class Inner }\nclass Three", &["a.One", "a.Two", "a.Two.Inner", "a.Three"])]
    #[case::code_in_strings("package a\nclass Gate { val s = \"${if (x) \"class No {\" else { \"}\" }} class No\" ; val t = \"\"\"${\"{\"} class No \\\"\"\"\" }\nclass Lamp", &["a.Gate", "a.Lamp"])]
    #[case::comments_in_comments("package a\n/* /* class No { */ class No { */ class Yes", &["a.Yes"])]
    #[case::references("package a\nclass Gate { val c = Gate::class; fun `class No`() {} }", &["a.Gate"])]
    fn kotlin(#[case] text: &str, #[case] expected: &[&str]) {
        assert_eq!(names(Language::Kotlin, text), expected);
    }

    #[rstest]
    #[case::kinds(
        "using System;\nnamespace Velmora.Depot;\npublic sealed class Gate<T> : Door where T : class, new() { }\ninterface IDoor { }\nstruct Track { }\nenum Side { Left }\npublic record Lamp(int Number);\nrecord struct Point(int X);\npublic delegate void Opened<in T>(T gate);",
        &["Velmora.Depot.Gate", "Velmora.Depot.IDoor", "Velmora.Depot.Track", "Velmora.Depot.Side", "Velmora.Depot.Lamp", "Velmora.Depot.Point", "Velmora.Depot.Opened"]
    )]
    #[case::namespaces_in_braces("namespace A.B { class One { } namespace C { class Two { class Three { } } } } namespace D { class Four { } }", &["A.B.One", "A.B.C.Two", "A.B.C.Two.Three", "D.Four"])]
    #[case::strings(
        "namespace A; class Gate { string a = @\"class No { \"\" \\\"; string b = $\"{x.Get(\"}\")} class {{No\"; string c = \"\"\"class No { \"\" \"\"\"; string d = $@\"{y}\"; char e = '\"'; }\nclass Lamp { }",
        &["A.Gate", "A.Lamp"]
    )]
    #[case::lines_for_the_preprocessor("namespace A;\n#region class No {\nclass Gate { }\n  #endregion \"", &["A.Gate"])]
    #[case::one_of_several(
        "namespace A {\n#if ONE\nclass Gate : One {\n#elif TWO\nclass Gate : Two {\n#else\nclass Gate {\n#endif\n class Lock { } }\n class Lamp { } }",
        &["A.Gate", "A.Gate", "A.Gate", "A.Gate.Lock", "A.Lamp"]
    )]
    #[case::constraints("namespace A; class Box<T, U> where T : class where U : struct { }", &["A.Box"])]
    fn c_sharp(#[case] text: &str, #[case] expected: &[&str]) {
        assert_eq!(names(Language::CSharp, text), expected);
    }

    #[rstest]
    #[case::kinds(
        "<html>class No {<?php\nnamespace Velmora\\Depot;\nuse Velmora\\Part;\n#[Mark('class No {')]\nfinal class Gate extends Door implements Part { const X = Gate::class; }\ninterface Door {}\ntrait Lit {}\nenum Side: string { case Left = 'l'; }\n?> class No {",
        &["Velmora\\Depot\\Gate", "Velmora\\Depot\\Door", "Velmora\\Depot\\Lit", "Velmora\\Depot\\Side"]
    )]
    #[case::without_a_name("<?php class Gate { function f() { return new class { }; } }", &["Gate"])]
    #[case::texts("<?php class Gate { var $a = <<<END\n class No { \" '\n END; var $b = \"{$x[\"class No\"]} { \\\"\"; var $c = 'it\\'s {'; } # class No {\nclass Lamp {}", &["Gate", "Lamp"])]
    #[case::scopes_in_braces("<?php namespace A { class One {} } namespace { class Two {} }", &["A\\One", "Two"])]
    fn php(#[case] text: &str, #[case] expected: &[&str]) {
        assert_eq!(names(Language::Php, text), expected);
    }

    #[rstest]
    #[case::string(Language::Java, "class A { String s = \"x; }", 21)]
    #[case::comment(Language::Java, "class A { /* }", 10)]
    #[case::brace(Language::Java, "class A { ", 10)]
    #[case::brace_too_many(Language::CSharp, "class A { } }", 12)]
    #[case::text(Language::Php, "<?php $x = <<<END\n x", 11)]
    #[case::code_in_a_string(Language::Kotlin, "val x = \"${ y", 13)]
    fn what_is_not_known_for_sure_is_in_doubt(
        #[case] language: Language,
        #[case] text: &str,
        #[case] at: usize,
    ) {
        assert_eq!(declarations(text, language).1.map(|doubt| doubt.at), Some(at));
    }

    /// However a text is cut or its brackets pile up, it is read to its end.
    #[rstest]
    #[case(
        Language::Java,
        "package a; class A<B> { String s = \"\"\"x\"\"\"; char c = '\\''; /* x */ // y\n }"
    )]
    #[case(
        Language::Kotlin,
        "package a\nclass A { val s = \"${b(\"c\")}\" ; val t = \"\"\"$x ${y}\"\"\" } /* /* */ */"
    )]
    #[case(
        Language::CSharp,
        "namespace A { class B { string c = $@\"{d} \"\" {{\" + \"\"\"e\"\"\"; } delegate int F<T>(T t); }"
    )]
    #[case(
        Language::Php,
        "<p><?php namespace A\\B; class C { function d() { return <<<E\n f\n E; } } ?> <?= 'g' ?>"
    )]
    fn every_beginning_of_a_text_is_read(#[case] language: Language, #[case] text: &str) {
        for end in (0..=text.len()).filter(|&end| text.is_char_boundary(end)) {
            drop(declarations(&text[..end], language));
        }
        for piece in ["{", "a<", "(", "/* ", "\"{", "#if\n", "\"${", "class A{", "/*", "$\"{", "namespace A{"]
        {
            drop(declarations(&piece.repeat(20_000), language));
        }
    }
}
