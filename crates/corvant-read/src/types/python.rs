//! Declarations where indentation says what stands in what.

use super::lexer::Doubt;
use super::outline::{Callable, FieldOutline, Mark, Outline, Parameter, TypeOutline, TypeUse, Value};
use super::tokens::{NESTED, Tokens};
use super::{Language, Methods};
use corvant_core::facts::TypeKind;
use std::ops::Range;

/// A statement: how far it is indented, and its tokens.
struct Statement {
    indent: usize,
    tokens: Range<usize>,
}

/// What statements further in are a part of.
#[derive(Clone, Copy)]
enum Around {
    /// A type, by its number.
    Type(usize),
    /// A condition, or another block that what is declared in it is not named after.
    Plain,
    /// A function: what it declares nobody else can name.
    Function,
}

struct Reader<'t> {
    tokens: Tokens<'t>,
    found: Outline,
    module: String,
    methods: Methods,
    /// How far what is around is indented, and what it is.
    around: Vec<(usize, Around)>,
    /// Marks of what comes next.
    marks: Vec<Mark>,
}

/// What a file declares whose module's name is given, up to where it is in doubt.
pub(super) fn outline(text: &str, module: &str, methods: Methods) -> (Outline, Option<Doubt>) {
    let (tokens, doubt) = Tokens::new(text, Language::Python);
    let statements = statements(&tokens);
    let mut reader = Reader {
        tokens,
        found: Outline { scopes: vec![module.to_owned()], ..Outline::default() },
        module: module.to_owned(),
        methods,
        around: Vec::new(),
        marks: Vec::new(),
    };
    for statement in statements {
        if let Err(doubt) = reader.statement(&statement) {
            return (reader.found, Some(doubt));
        }
    }
    (reader.found, doubt)
}

fn statements(tokens: &Tokens<'_>) -> Vec<Statement> {
    let mut starts: Vec<usize> = Vec::new();
    let mut at = 0;
    while at < tokens.len() {
        let begins = tokens.begins_line(at) && {
            let before = at.checked_sub(1).map_or(0, |before| tokens.range(before).end);
            // A line that is said to go on is no end.
            !tokens.text[before..tokens.range(at).start].contains("\\\n")
        };
        if begins {
            starts.push(at);
        }
        at = match tokens.all[at].sign {
            b'(' | b'[' | b'{' => tokens.behind(at).unwrap_or(at + 1),
            _ => at + 1,
        };
    }
    let ends = starts.iter().skip(1).copied().chain([tokens.len()]);
    let statement = |(&start, end): (&usize, usize)| {
        let before = &tokens.text[..tokens.range(start).start];
        let line = before.rfind('\n').map_or(0, |at| at + 1);
        // A tab goes to the next multiple of eight.
        let indent = before[line..]
            .bytes()
            .fold(0, |indent, byte| if byte == b'\t' { indent / 8 * 8 + 8 } else { indent + 1 });
        Statement { indent, tokens: start..end }
    };
    starts.iter().zip(ends).map(statement).collect()
}

impl Reader<'_> {
    fn statement(&mut self, statement: &Statement) -> Result<(), Doubt> {
        while self.around.pop_if(|(indent, _)| *indent >= statement.indent).is_some() {}
        let Range { start, end } = statement.tokens;
        let opens = self.tokens.is_sign(end - 1, b':');
        let start = start + usize::from(self.tokens.is_word(start, "async"));
        let in_function = self.around.iter().any(|(_, around)| matches!(around, Around::Function));
        match self.tokens.word(start) {
            _ if in_function => {
                if opens {
                    self.enter(statement, Around::Plain)?;
                }
            }
            Some("class") => {
                let number = self.class(start, end);
                self.enter(statement, number.map_or(Around::Plain, Around::Type))?;
            }
            Some("def") => {
                self.function(start, end);
                self.enter(statement, Around::Function)?;
            }
            Some("from" | "import") => self.import(start, end),
            None if self.tokens.is_sign(start, b'@') => {
                let (marks, _) = self.tokens.leading_marks(start, end);
                self.marks.extend(marks);
                return Ok(());
            }
            // What only a checker of types sees is declared all the same.
            Some("if" | "else" | "elif" | "try" | "except" | "finally" | "with" | "for" | "while")
                if opens =>
            {
                self.enter(statement, Around::Plain)?;
            }
            _ => self.assignment(start, end),
        }
        self.marks.clear();
        Ok(())
    }

    fn enter(&mut self, statement: &Statement, around: Around) -> Result<(), Doubt> {
        self.around.push((statement.indent, around));
        if self.around.len() > NESTED {
            let at = self.tokens.range(statement.tokens.start).start;
            return Err(Doubt { at, why: "blocks stand in one another too deep" });
        }
        Ok(())
    }

    fn type_around(&self) -> Option<usize> {
        let mut around = self.around.iter().rev();
        around.find_map(|(_, around)| match around {
            Around::Type(number) => Some(Some(*number)),
            Around::Function => Some(None),
            Around::Plain => None,
        })?
    }

    /// `class Gate(Door, metaclass=Shared):`
    fn class(&mut self, start: usize, end: usize) -> Option<usize> {
        let name = self.tokens.word(start + 1)?;
        let scope = self.module.clone();
        let around = self.type_around().map_or(&scope, |number| &self.found.types[number].name);
        let full = if around.is_empty() { name.to_owned() } else { format!("{around}.{name}") };
        let mut outline = TypeOutline {
            name: full,
            at: self.tokens.range(start + 1),
            marks: std::mem::take(&mut self.marks),
            scope,
            ..TypeOutline::default()
        };
        let mut at = start + 2;
        if self.tokens.is_sign(at, b'[') {
            let close = self.tokens.partner(at)?;
            let names = self.tokens.elements(at + 1..close);
            outline.type_parameters = names
                .into_iter()
                .filter_map(|name| self.tokens.word(name.start).map(str::to_owned))
                .collect();
            at = close + 1;
        }
        if let Some(close) =
            self.tokens.partner(at).filter(|&close| self.tokens.is_sign(at, b'(') && close < end)
        {
            for base in self.tokens.elements(at + 1..close) {
                if self.tokens.is_sign(base.start + 1, b'=') {
                    outline.is_abstract |= self.tokens.word(base.start + 2) == Some("ABCMeta");
                    continue;
                }
                outline.supers.push(self.tokens.whole_type(base).unwrap_or_default());
            }
        }
        let is_of = |names: &[&str]| {
            outline
                .supers
                .iter()
                .any(|base| names.contains(&base.name.rsplit('.').next().unwrap_or_default()))
        };
        if is_of(&["Protocol"]) {
            outline.kind = TypeKind::Interface;
        } else if is_of(&["Enum", "IntEnum", "StrEnum", "Flag", "IntFlag"]) {
            outline.kind = TypeKind::Enum;
        }
        if is_data(&outline) || is_of(&["NamedTuple"]) {
            outline.kind = TypeKind::Record;
            let name = name.to_owned();
            outline.constructors.push(Callable { name, at: outline.at.clone(), ..Callable::default() });
        }
        self.found.types.push(outline);
        Some(self.found.types.len() - 1)
    }

    /// `def open(self, yard: Yard, *, number: int = 1) -> Gate:`
    fn function(&mut self, start: usize, end: usize) {
        let (Some(of), Some(name)) = (self.type_around(), self.tokens.word(start + 1)) else { return };
        let mut open = start + 2;
        if self.tokens.is_sign(open, b'[') {
            open = self.tokens.behind(open).unwrap_or(open);
        }
        let Some(close) =
            self.tokens.partner(open).filter(|&close| self.tokens.is_sign(open, b'(') && close < end)
        else {
            return;
        };
        let marks = std::mem::take(&mut self.marks);
        let has = |word: &str| marks.iter().any(|mark| mark.name.rsplit('.').next() == Some(word));
        let (is_static, is_abstract) = (has("staticmethod"), has("abstractmethod"));
        let is_of_class = has("classmethod");
        let is_whole = self.methods == Methods::Whole || name == "__init__";
        let mut parameters: Vec<Parameter> = Vec::new();
        let elements = if is_whole { self.tokens.elements(open + 1..close) } else { Vec::new() };
        for element in elements {
            // `*` and `/` part parameters, and are none.
            if element.len() == 1 && self.tokens.word(element.start).is_none() {
                continue;
            }
            parameters.push(self.parameter(element));
        }
        if !is_static && !parameters.is_empty() {
            parameters.remove(0);
        }
        let mut returns: Option<TypeUse> = None;
        if is_whole && self.tokens.are_signs(close + 1, b"->") {
            returns = self.tokens.type_at(close + 3, end).map(|(found, _)| found);
        }
        let method = Callable {
            name: name.to_owned(),
            at: self.tokens.range(start + 1),
            parameters,
            returns,
            is_static: is_static || is_of_class,
            is_abstract,
            is_private: name.starts_with('_'),
            marks: if is_whole { marks } else { Vec::new() },
        };
        let outline = &mut self.found.types[of];
        outline.is_abstract |= is_abstract;
        match name {
            "__init__" => outline.constructors = vec![method],
            "__getattr__" | "__getattribute__" | "__new__" => outline.is_open = true,
            _ => outline.methods.push(method),
        }
    }

    fn parameter(&self, element: Range<usize>) -> Parameter {
        let mut at = element.start;
        let is_variadic = self.tokens.is_sign(at, b'*');
        while self.tokens.is_sign(at, b'*') {
            at += 1;
        }
        let value = self.tokens.set_to(at..element.end);
        let end = value.unwrap_or(element.end);
        let type_use =
            if self.tokens.is_sign(at + 1, b':') { self.tokens.whole_type(at + 2..end) } else { None };
        Parameter {
            name: self.tokens.word(at).unwrap_or_default().to_owned(),
            at: self.tokens.range(at),
            type_use,
            is_optional: value.is_some(),
            is_variadic,
            marks: Vec::new(),
        }
    }

    /// `from .gate import Gate as Door, Lock`, `import velmora.depot as depot`
    fn import(&mut self, start: usize, end: usize) {
        let is_from = self.tokens.is_word(start, "from");
        let mut at = start + 1;
        let mut module = String::new();
        while at < end && !self.tokens.is_word(at, "import") && is_from {
            match self.tokens.word(at) {
                Some(word) => module.push_str(word),
                None => module.push('.'),
            }
            at += 1;
        }
        let module = self.absolute(&module);
        at += usize::from(is_from);
        if self.tokens.is_sign(at, b'*') {
            self.found.imports.see_all_of(module);
            return;
        }
        let list = match self.tokens.partner(at).filter(|_| self.tokens.is_sign(at, b'(')) {
            Some(close) => at + 1..close,
            None => at..end,
        };
        for element in self.tokens.elements(list) {
            let renamed = (element.start..element.end).find(|&at| self.tokens.is_word(at, "as"));
            let name: String = self.tokens.text
                [self.tokens.ranges(element.start..renamed.unwrap_or(element.end))]
            .split_whitespace()
            .collect();
            let own = renamed.and_then(|at| self.tokens.word(at + 1)).unwrap_or(&name).to_owned();
            let full = if is_from { format!("{module}.{name}") } else { name.clone() };
            self.found.imports.named.insert(own, full);
        }
    }

    /// The full name of a module that may be named from where the file is.
    fn absolute(&self, module: &str) -> String {
        let up = module.bytes().take_while(|&byte| byte == b'.').count();
        if up == 0 {
            return module.to_owned();
        }
        let mut parts: Vec<&str> = self.module.split('.').collect();
        parts.truncate(parts.len().saturating_sub(up));
        parts.extend(Some(&module[up..]).filter(|rest| !rest.is_empty()));
        parts.join(".")
    }

    /// `yard: Yard`, `LIMIT = 5`
    /// Takes a text that stands in a module under a name.
    fn constant(&mut self, start: usize, end: usize) {
        let value = self.tokens.set_to(start..end);
        let is_one = value == Some(start + 1) || self.tokens.is_sign(start + 1, b':');
        let literal = value.filter(|_| is_one).and_then(|value| self.tokens.literal(value + 1..end));
        if let (Some(name), Some(Value::Text(text))) =
            (self.tokens.word(start), literal.map(|literal| literal.value))
        {
            self.found.constants.push((format!("{}.{name}", self.module), text));
        }
    }

    fn assignment(&mut self, start: usize, end: usize) {
        let Some(of) = self.type_around() else { return self.constant(start, end) };
        let Some(name) = self.tokens.word(start) else { return };
        let is_typed = self.tokens.is_sign(start + 1, b':');
        let value = self.tokens.set_to(start..end);
        if !is_typed && value != Some(start + 1) {
            return;
        }
        let type_use = if is_typed { self.tokens.whole_type(start + 2..value.unwrap_or(end)) } else { None };
        let (name, at) = (name.to_owned(), self.tokens.range(start));
        let literal = value.and_then(|value| self.tokens.literal(value + 1..end));
        let outline = &mut self.found.types[of];
        let of_class = type_use.as_ref().is_some_and(|found| found.name.ends_with("ClassVar"));
        if outline.kind == TypeKind::Record
            && is_typed
            && !of_class
            && let Some(constructor) = outline.constructors.first_mut()
        {
            constructor.parameters.push(Parameter {
                name: name.clone(),
                at: at.clone(),
                type_use: type_use.clone(),
                is_optional: value.is_some(),
                ..Parameter::default()
            });
        }
        outline.fields.push(FieldOutline { name, at, type_use, marks: Vec::new(), value: literal });
    }
}

/// Whether the fields of a class are what it is built with.
fn is_data(outline: &TypeOutline) -> bool {
    outline.marks.iter().any(|mark| matches!(mark.name.as_str(), "dataclass" | "dataclasses.dataclass"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn names(text: &str) -> Vec<String> {
        let (found, doubt) = outline(text, "velmora.depot", Methods::Whole);
        assert_eq!(doubt, None);
        found.types.into_iter().map(|declared| declared.name).collect()
    }

    #[rstest]
    #[case::nested("class Gate:\n    class Lock:\n        pass\n\nclass Lamp(Gate): pass\n", &["velmora.depot.Gate", "velmora.depot.Gate.Lock", "velmora.depot.Lamp"])]
    #[case::in_functions("def f():\n    class No:\n        pass\nclass Yes: ...\n", &["velmora.depot.Yes"])]
    #[case::in_conditions("if True:\n    class One: pass\nelse:\n    class Two: pass\n", &["velmora.depot.One", "velmora.depot.Two"])]
    #[case::texts("x = '''\nclass No:\n'''\ny = r'\\d' # class No:\nz = f\"{x}\"\nclass Yes:\n  s = \"class No:\"\n", &["velmora.depot.Yes"])]
    #[case::long_lines("def f(a,\nclass_=1):\n    return a\nx = 1 + \\\n  2\nclass Yes: pass\n", &["velmora.depot.Yes"])]
    fn types(#[case] text: &str, #[case] expected: &[&str]) {
        assert_eq!(names(text), expected);
    }

    #[test]
    fn members_and_imports() {
        let text =
            "from .yard import (Yard as Place, Shed,)\nfrom ..kit import *\nimport velmora.clock as clock\n";
        let text = format!(
            "{text}@part('gate', key=Keys.ONE)\nclass Gate(Door[int], abc.ABC):\n    LIMIT = 5\n    def __init__(self, yard: 'Place', *, lamps: list[Lamp] | None = None, **rest):\n        pass\n    @abstractmethod\n    async def open(self, at: int) -> Lamp: ...\n"
        );
        let (found, doubt) = outline(&text, "velmora.depot.gate", Methods::Whole);
        assert_eq!(doubt, None);
        let imports = found.imports.named.iter().map(|(own, full)| format!("{own} {full}"));
        assert_eq!(
            imports.collect::<std::collections::BTreeSet<_>>().into_iter().collect::<Vec<_>>(),
            ["Place velmora.depot.yard.Yard", "Shed velmora.depot.yard.Shed", "clock velmora.clock"]
        );
        assert_eq!(found.imports.all_of, ["velmora.kit"]);
        let gate = &found.types[0];
        assert!(gate.is_abstract);
        assert_eq!(gate.marks[0].arguments.len(), 1);
        let parameters: Vec<_> =
            gate.constructors[0].parameters.iter().map(|one| one.name.as_str()).collect();
        assert_eq!(parameters, ["yard", "lamps", "rest"]);
        assert!(gate.constructors[0].parameters[1].is_optional);
        assert_eq!(gate.methods[0].returns.as_ref().map(|found| found.name.as_str()), Some("Lamp"));
        assert_eq!(gate.fields[0].name, "LIMIT");
    }

    #[test]
    fn fields_of_data_are_parameters() {
        let (found, _) =
            outline("@dataclass\nclass Gate:\n    yard: Yard\n    number: int = 1\n", "a", Methods::Whole);
        let parameters = &found.types[0].constructors[0].parameters;
        assert_eq!(
            parameters.iter().map(|one| (one.name.as_str(), one.is_optional)).collect::<Vec<_>>(),
            [("yard", false), ("number", true)]
        );
    }
}
