//! The skim: declarations among words and signs, by the words before them and the braces around them. What stands inside
//! of methods is left out; nothing is followed deeper than brackets are counted.

use super::lexer::{BRANCH_AGAIN, BRANCH_BEGINS, BRANCHES_END, Doubt, TEXT};
use super::marks::unquoted;
use super::outline::{Outline, TypeOutline};
use super::tokens::{NESTED, OPEN, Tokens};
use super::{Language, Methods, python};

/// What a pair of braces is around.
#[derive(Clone, Debug)]
pub(super) enum Block {
    /// Neither of the others.
    Plain,
    /// A package or namespace, by its full name.
    Scope(String),
    /// A type, by its number in the outline.
    Type(usize),
}

/// Where the braces are.
#[derive(Clone, Default)]
pub(super) struct Standing {
    /// What the braces are around that are open.
    pub(super) blocks: Vec<Block>,
    /// Those of them that are around a type or scope: a few, however many others there are.
    named: Vec<Block>,
    /// A declaration whose braces are still to come.
    pub(super) waiting: Option<Block>,
    /// How many parentheses and brackets are open.
    pub(super) open: usize,
}

/// A text while it is gone through.
pub(super) struct Skim<'t> {
    pub(super) tokens: Tokens<'t>,
    pub(super) found: Outline,
    /// The scope of the whole file.
    pub(super) scope: String,
    pub(super) methods: Methods,
    pub(super) standing: Standing,
    /// For each condition around, where the braces were when it began: there each of its branches begins.
    conditions: Vec<Standing>,
}

/// What a text declares, up to where it is in doubt.
/// The scope is what the place of the file says, in languages where that is a scope.
pub(super) fn outline(
    text: &str,
    language: Language,
    scope: &str,
    methods: Methods,
) -> (Outline, Option<Doubt>) {
    if language == Language::Python {
        return python::outline(text, scope, methods);
    }
    let (tokens, doubt) = Tokens::new(text, language);
    // In a language in which files are scopes, it is one from the beginning.
    let scopes = Some(scope).filter(|scope| !scope.is_empty()).map(str::to_owned).into_iter().collect();
    let mut skim = Skim {
        tokens,
        found: Outline { scopes, ..Outline::default() },
        scope: scope.to_owned(),
        methods,
        standing: Standing::default(),
        conditions: Vec::new(),
    };
    let mut at = 0;
    while at < skim.tokens.len() {
        match skim.token(at) {
            Ok(next) => at = next.max(at + 1),
            Err(doubt) => return (skim.found, Some(doubt)),
        }
    }
    let is_open = doubt.is_none() && !skim.standing.blocks.is_empty();
    let open = is_open.then_some(Doubt { at: text.len(), why: "braces are left open" });
    (skim.found, doubt.or(open))
}

impl Skim<'_> {
    /// The type whose members are read here, if nothing else is open in it.
    pub(super) fn in_type(&self) -> Option<usize> {
        match self.standing.blocks.last() {
            Some(Block::Type(number)) if self.standing.open == 0 => Some(*number),
            _ => None,
        }
    }

    /// Whether braces are open that are around neither a type nor a scope.
    pub(super) fn is_inside_others(&self) -> bool {
        self.standing.blocks.len() > self.standing.named.len()
    }

    /// Reads one token, and gives the number of the next.
    fn token(&mut self, at: usize) -> Result<usize, Doubt> {
        let token = self.tokens.all[at];
        match token.sign {
            0 => return Ok(self.of_word(at)),
            BRANCH_BEGINS if self.conditions.len() < NESTED && self.standing.blocks.len() < OPEN => {
                self.conditions.push(self.standing.clone());
            }
            BRANCH_BEGINS => {
                let why = "conditions stand in one another too deep";
                return Err(Doubt { at: token.range().start, why });
            }
            BRANCH_AGAIN => self.standing = self.conditions.last().cloned().unwrap_or_default(),
            BRANCHES_END => drop(self.conditions.pop()),
            b'(' | b'[' => self.standing.open += 1,
            b')' | b']' => self.standing.open = self.standing.open.saturating_sub(1),
            b'{' => return self.open(at),
            b'}' => {
                let why = "a brace is closed that is not open";
                let closed = self.standing.blocks.pop().ok_or(Doubt { at: token.range().start, why })?;
                if !matches!(closed, Block::Plain) {
                    self.standing.named.pop();
                }
            }
            b';' if self.standing.open == 0 => {
                self.property(at);
                self.standing.waiting = None;
            }
            b'$' if self.in_type().is_some() && self.tokens.language == Language::Php => {
                return Ok(self.php_property(at));
            }
            b',' if self.in_type().is_some() => self.property(at),
            b'=' if self.in_type().is_some() && !self.is_operator(at) => return Ok(self.behind_value(at)),
            b'=' if self.standing.open == 0 && !self.is_inside_others() => self.outer_constant(at),
            _ => {}
        }
        Ok(at + 1)
    }

    fn open(&mut self, at: usize) -> Result<usize, Doubt> {
        let waiting = if self.standing.open == 0 { self.standing.waiting.take() } else { None };
        // What a method does declares nothing that others could name.
        if waiting.is_none()
            && self.in_type().is_some()
            && let Some(behind) = self.tokens.behind(at)
        {
            self.property(at);
            return Ok(behind);
        }
        let block = waiting.unwrap_or(Block::Plain);
        // A companion's braces are in those of its type.
        let is_around = |number: usize| {
            self.standing.named.iter().any(|around| matches!(around, Block::Type(known) if *known == number))
        };
        let is_enum =
            matches!(block, Block::Type(number) if self.is_list_of_values(number) && !is_around(number));
        if !matches!(block, Block::Plain) {
            self.standing.named.push(block.clone());
        }
        self.standing.blocks.push(block);
        if self.standing.named.len() > NESTED {
            let why = "types stand in one another too deep";
            return Err(Doubt { at: self.tokens.range(at).start, why });
        }
        Ok(if is_enum { self.behind_values(at) } else { at + 1 })
    }

    /// The number behind the values that an enumeration begins with.
    fn behind_values(&self, open: usize) -> usize {
        let close = self.tokens.partner(open).unwrap_or(open);
        if self.tokens.language == Language::CSharp && close > open {
            return close;
        }
        self.tokens.find(open + 1..close, b";").map_or(close.max(open + 1), |end| end + 1)
    }

    /// The number behind what a field is set to where it is declared. In Kotlin nothing ends it for sure.
    fn behind_value(&mut self, at: usize) -> usize {
        self.property(at);
        if self.tokens.language == Language::Kotlin || self.standing.waiting.is_some() {
            return at + 1;
        }
        if self.tokens.language == Language::TypeScript {
            return self.script_end(at + 1);
        }
        self.tokens.find(at + 1..self.tokens.len(), b";}").unwrap_or(self.tokens.len())
    }

    /// Takes a constant that stands outside of types: `const NAME = "text"`, with its type or without.
    fn outer_constant(&mut self, equals: usize) {
        let is_said = |at: usize| matches!(self.tokens.word(at), Some("const" | "val"));
        let is_typed = equals > 3 && self.tokens.is_sign(equals - 2, b':') && is_said(equals - 4);
        let name = if is_typed { equals - 3 } else { equals.saturating_sub(1) };
        if !name.checked_sub(1).is_some_and(is_said) {
            return;
        }
        let text = equals + 1;
        let ends = text + 1 >= self.tokens.len()
            || self.tokens.is_sign(text + 1, b';')
            || self.tokens.is_word(text + 1, "as")
            || self.tokens.begins_line(text + 1);
        let is_text = self.tokens.all.get(text).is_some_and(|token| token.is(TEXT));
        let Some(name) = self.tokens.word(name).filter(|_| is_text && ends) else { return };
        let around = self.standing.named.iter().rev().find_map(|block| match block {
            Block::Scope(scope) => Some(scope.as_str()),
            _ => None,
        });
        let scope = around.unwrap_or(&self.scope);
        let separator = match self.tokens.language {
            Language::TypeScript => "#",
            Language::Php => "\\",
            _ => ".",
        };
        let full = if scope.is_empty() { name.to_owned() } else { format!("{scope}{separator}{name}") };
        let text = unquoted(&self.tokens.text[self.tokens.range(text)], self.tokens.language);
        // What stands in a part of a script is seen in all of it.
        if around.is_some() && self.tokens.language == Language::TypeScript {
            self.found.constants.push((format!("{}#{name}", self.scope), text.clone()));
        }
        self.found.constants.push((full, text));
    }

    /// Whether a sign is that of an operator which is declared: `operator ==`, `operator <=`.
    fn is_operator(&self, at: usize) -> bool {
        let is_said = |at: usize| self.tokens.is_word(at, "operator");
        at.checked_sub(1).is_some_and(is_said) || at.checked_sub(2).is_some_and(is_said)
    }

    fn of_word(&mut self, at: usize) -> usize {
        let Some(word) = self.tokens.word(at) else { return at + 1 };
        if self.is_part_of_expression(at) {
            return at + 1;
        }
        let is_outside = !matches!(self.standing.blocks.last(), Some(Block::Plain | Block::Type(_)));
        match (self.tokens.language, word) {
            (Language::Java | Language::Kotlin, "package") if is_outside => return self.scope(at + 1),
            // A member may be called so.
            (Language::CSharp | Language::Php | Language::TypeScript, "namespace")
                if self.in_type().is_none() =>
            {
                return self.scope(at + 1);
            }
            // An older word for it.
            (Language::TypeScript, "module")
                if self.in_type().is_none() && self.tokens.word(at + 1).is_some() =>
            {
                return self.scope(at + 1);
            }
            (Language::Java | Language::Kotlin | Language::TypeScript, "import")
            | (Language::CSharp, "using")
            | (Language::Php, "use")
            | (Language::TypeScript, "export")
                if is_outside && self.standing.open == 0 =>
            {
                return self.import(at);
            }
            (Language::CSharp, "delegate") => return self.delegate(at + 1),
            _ => {}
        }
        if let Some(name) = self.declared(word, at) {
            return self.declare(at, name);
        }
        match self.in_type() {
            Some(of) => self.member(of, at),
            None => at + 1,
        }
    }

    /// Whether what stands before a word makes it a part of something else: `Gate.class`, `Gate::class`.
    fn is_part_of_expression(&self, at: usize) -> bool {
        let Some(before) = at.checked_sub(1) else { return false };
        let tokens = &self.tokens;
        // A condition may begin with one.
        let is_colon = || match tokens.language {
            Language::Java => false,
            Language::Php => before > 0 && tokens.is_sign(before - 1, b':'),
            _ => true,
        };
        let is_arrow = || tokens.is_sign(before, b'>') && before > 0 && tokens.is_sign(before - 1, b'-');
        tokens.is_sign(before, b'.')
            || tokens.is_sign(before, b':') && is_colon()
            || tokens.is_sign(before, b'$')
            || tokens.is_sign(before, b'@') && tokens.word(at) != Some("interface")
            || is_arrow()
            || tokens.is_word(before, "new") && self.tokens.language != Language::CSharp
    }

    /// The number of the token that is the name of the type which a word declares; `None`: it declares none.
    fn declared(&self, word: &str, at: usize) -> Option<usize> {
        let tokens = &self.tokens;
        let name = |at: usize| {
            // A name that is a keyword elsewhere has a sign before it.
            let is_marked = tokens.language == Language::CSharp && tokens.is_sign(at, b'@');
            let at = at + usize::from(is_marked);
            tokens.word(at).filter(|name| !is_reserved(name)).map(|_| at)
        };
        let has_body = |at: usize| {
            [b'(', b'<', b'{', b';', b':'].into_iter().any(|sign| tokens.is_sign(at + 1, sign))
                || matches!(tokens.word(at + 1), Some("implements" | "extends" | "where"))
        };
        match (tokens.language, word) {
            (_, "class" | "interface")
            | (Language::Java, "enum")
            | (Language::CSharp, "struct" | "enum")
            | (Language::Kotlin, "object" | "typealias") => name(at + 1),
            (Language::Java, "record") => {
                name(at + 1).filter(|&name| tokens.is_sign(name + 1, b'(') || tokens.is_sign(name + 1, b'<'))
            }
            (Language::Php, "trait" | "enum") | (Language::TypeScript, "enum") => {
                name(at + 1).filter(|&name| has_body(name))
            }
            (Language::TypeScript, "type") => {
                name(at + 1).filter(|&name| tokens.is_sign(name + 1, b'=') || tokens.is_sign(name + 1, b'<'))
            }
            (Language::CSharp, "record") => {
                let skipped = matches!(tokens.word(at + 1), Some("class" | "struct"));
                name(at + 1 + usize::from(skipped)).filter(|&name| has_body(name))
            }
            _ => None,
        }
    }

    /// A type that is like a method: its name stands before its parameters.
    fn delegate(&mut self, start: usize) -> usize {
        let at = self.tokens.find(start..self.tokens.len(), b"(;{").unwrap_or(self.tokens.len());
        // Behind the name may be type parameters.
        let mut name = at.checked_sub(1).filter(|&name| name >= start);
        if name.is_some_and(|name| self.tokens.is_sign(name, b'>')) {
            let open =
                (start.max(at.saturating_sub(500))..at).rev().find(|&open| self.tokens.is_sign(open, b'<'));
            name = open.and_then(|open| open.checked_sub(1));
        }
        if let Some(name) =
            name.filter(|&name| self.tokens.is_sign(at, b'(') && self.tokens.word(name).is_some())
        {
            self.declare_as(name, TypeOutline { is_open: true, ..TypeOutline::default() });
            self.standing.waiting = None;
        }
        at.max(start)
    }

    /// Takes a type down under its full name.
    pub(super) fn declare_as(&mut self, name: usize, outline: TypeOutline) {
        let text = self.tokens.word(name).unwrap_or_default();
        let around = self.standing.named.iter().rev().find_map(|block| match block {
            Block::Plain => None,
            Block::Scope(name) => Some(name.as_str()),
            Block::Type(number) => Some(self.found.types[*number].name.as_str()),
        });
        let scope = self.standing.named.iter().rev().find_map(|block| match block {
            Block::Scope(name) => Some(name.as_str()),
            _ => None,
        });
        let scope = scope.unwrap_or(&self.scope).to_owned();
        let around = around.unwrap_or(&self.scope);
        let separator = match self.tokens.language {
            Language::Php => "\\",
            Language::TypeScript if !around.contains('#') => "#",
            _ => ".",
        };
        let full = if around.is_empty() { text.to_owned() } else { format!("{around}{separator}{text}") };
        let at = self.tokens.range(name);
        self.found.types.push(TypeOutline { name: full, at, scope, ..outline });
        self.standing.waiting = Some(Block::Type(self.found.types.len() - 1));
    }

    /// A package or namespace: for the whole file, or for what is in its braces.
    fn scope(&mut self, mut at: usize) -> usize {
        let mut name = String::new();
        while let Some(part) = self.tokens.word(at) {
            name.push_str(part.trim_start_matches('\\'));
            at += 1;
            if !self.tokens.is_sign(at, b'.') {
                break;
            }
            name.push('.');
            at += 1;
        }
        let is_block = self.tokens.is_sign(at, b'{');
        if !is_block && (name.is_empty() || self.tokens.language == Language::TypeScript) {
            return at;
        }
        let around = self.standing.named.iter().rev().find_map(|block| match block {
            Block::Scope(around) if is_block => Some(around.as_str()),
            _ => None,
        });
        match (self.tokens.language, around) {
            (Language::CSharp | Language::TypeScript, Some(around)) => name = format!("{around}.{name}"),
            (Language::TypeScript, None) => name = format!("{}#{name}", self.scope),
            _ => {}
        }
        self.found.scopes.push(name.clone());
        if is_block {
            self.standing.waiting = Some(Block::Scope(name));
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
        let (found, doubt) = outline(text, language, "", Methods::Whole);
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
    #[case::lambdas("package a; class Gate { Runnable r = () -> { class Local {} }; } class Lamp {}", &["a.Gate", "a.Lamp"])]
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
        assert_eq!(outline(text, language, "", Methods::Whole).1.map(|doubt| doubt.at), Some(at));
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
    #[case(
        Language::TypeScript,
        "import { A } from \"./a\"; @B({ c: 1 }) export class D { e = /f/g; constructor(g?: H[]) { `${i}` } }"
    )]
    #[case(
        Language::Python,
        "from .a import b\n@c(d=1)\nclass E(F[G]):\n  def __init__(self, h: 'I' = 1, *, j): \"\"\"k\"\"\"\n"
    )]
    fn every_beginning_of_a_text_is_read(#[case] language: Language, #[case] text: &str) {
        for end in (0..=text.len()).filter(|&end| text.is_char_boundary(end)) {
            drop(outline(&text[..end], language, "", Methods::Whole));
        }
        for piece in [
            "{",
            "a<",
            "(",
            "/* ",
            "\"{",
            "#if\n",
            "\"${",
            "class A{",
            "/*",
            "$\"{",
            "namespace A{",
            "@A(",
            "@A ",
            "class A{f(a<",
            "class A{ a b(",
            "x = ",
            "[",
            "class A extends ",
            "import a.",
            "use a\\{",
            "fun a.",
            "static ",
            "class A { const ",
            "delegate ",
            "val x: a<",
            "`${",
            "class A:\n ",
            "def f(\n",
        ] {
            drop(outline(&piece.repeat(20_000), language, "", Methods::Whole));
        }
    }
}
