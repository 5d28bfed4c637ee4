//! What the skim makes of types and their members, written in one line each.

mod compared;
mod grammar;
mod samples;

use super::outline::{Callable, Literal, Mark, Outline, TypeUse, Value};
use super::skim::outline;
use super::{Language, Methods};
use corvant_core::facts::TypeKind;
use corvant_core::name::Interner;
use rstest::rstest;

fn of_type(of: &TypeUse) -> String {
    let arguments: Vec<String> = of.arguments.iter().map(of_type).collect();
    let arguments = if arguments.is_empty() { String::new() } else { format!("<{}>", arguments.join(", ")) };
    let name = if of.name.is_empty() { "unknown" } else { &of.name };
    format!("{name}{arguments}{}", if of.is_nullable { "?" } else { "" })
}

fn of_literal(literal: &Literal) -> String {
    match &literal.value {
        Value::Text(text) => format!("'{text}'"),
        Value::Number(text) | Value::Name(text) => text.clone(),
        Value::Flag(flag) => flag.to_string(),
        Value::Type(name) => format!("type {name}"),
        Value::List(all) => format!("[{}]", all.iter().map(of_literal).collect::<Vec<_>>().join(", ")),
    }
}

fn of_marks(marks: &[Mark]) -> String {
    let of = |mark: &Mark| {
        let plain = mark.arguments.iter().map(of_literal);
        let named = mark.named.iter().map(|(name, literal)| format!("{name}={}", of_literal(literal)));
        let all: Vec<String> = plain.chain(named).collect();
        format!("@{}({}) ", mark.name, all.join(", "))
    };
    marks.iter().map(of).collect()
}

fn of_callable(of: &Callable) -> String {
    let parameters = of.parameters.iter().map(|parameter| {
        let of = parameter.type_use.as_ref().map_or_else(|| "unknown".to_owned(), of_type);
        let optional = if parameter.is_optional { " optional" } else { "" };
        let variadic = if parameter.is_variadic { " many" } else { "" };
        format!("{}{}: {of}{optional}{variadic}", of_marks(&parameter.marks), parameter.name)
    });
    let parameters: Vec<String> = parameters.collect();
    let flags = [(of.is_static, "static "), (of.is_abstract, "abstract "), (of.is_private, "private ")];
    let flags: String = flags.iter().filter(|(is, _)| *is).map(|(_, word)| *word).collect();
    let returns = of.returns.as_ref().map_or_else(String::new, |of| format!(": {}", of_type(of)));
    format!("{}{flags}{}({}){returns}", of_marks(&of.marks), of.name, parameters.join(", "))
}

/// Everything that is declared, a line each.
pub(super) fn shown(found: &Outline) -> Vec<String> {
    let mut lines = Vec::new();
    for one in &found.types {
        let supers: Vec<String> = one.supers.iter().map(of_type).collect();
        let supers = if supers.is_empty() { String::new() } else { format!(" : {}", supers.join(", ")) };
        let is_abstract = one.kind == TypeKind::Class && one.is_abstract;
        lines.push(format!(
            "{}{} {}{supers}",
            of_marks(&one.marks),
            if is_abstract { "abstract-class" } else { one.kind.word() },
            one.name
        ));
        lines.extend(one.constructors.iter().map(|one| format!("  new {}", of_callable(one))));
        lines.extend(one.methods.iter().map(|one| format!("  {}", of_callable(one))));
        lines.extend(one.fields.iter().map(|field| {
            let of = field.type_use.as_ref().map_or_else(|| "unknown".to_owned(), of_type);
            let value =
                field.value.as_ref().map_or_else(String::new, |value| format!(" = {}", of_literal(value)));
            format!("  field {}{}: {of}{value}", of_marks(&field.marks), field.name)
        }));
    }
    lines
}

#[rstest]
#[case::members(
    samples::JAVA,
    &[
        "@Part('gate') @Other(key=Keys.MAIN, of=[type Door, type Lamp]) abstract-class a.Gate : Door<T>, Part, a.b.Lit<String, []<T>>",
        "  new Gate(@Key('y') yard: Yard, lamps: Lamp many)",
        "  new private Gate()",
        "  @Override() open(at: int, yards: []<Yard>): Map<String, R>",
        "  abstract close(): void",
        "  operator(a: int, b: int): int",
        "  static of(text: String): Gate",
        "  field KEY: String = 'main'",
        "  field lamps: Map<String, List<Lamp>>",
        "  field @Given(key='x') number: int",
    ]
)]
#[case::others(
    "package a; record Track(@Key(\"n\") int number, List<Gate> gates) implements Way { Track { check(number); } static int no() { return 1; } }\nenum Side implements Way { LEFT(1) { int of() { return 1; } }, RIGHT; private final int x; Side(int x) { this.x = x; } }\ninterface Way extends One, Two { Gate gate(); default int no() { return 1; } String NAME = \"a\" + \"b\"; }\n@interface Part { String value() default \"\"; }",
    &[
        "record a.Track : Way",
        "  new Track(@Key('n') number: int, gates: List<Gate>)",
        "  static no(): int",
        "enum a.Side : Way",
        "  new Side(x: int)",
        "  field x: int",
        "interface a.Way : One, Two",
        "  gate(): Gate",
        "  no(): int",
        "  field NAME: String = 'ab'",
        "mark a.Part",
        "  value(): String",
    ]
)]
fn java(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::Java, "", Methods::Whole);
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    samples::KOTLIN,
    &[
        "class a.annotation.First",
        "@Part(name='gate') class a.annotation.Gate : Door<Lamp>, Part",
        "  new @Built() Gate(yard: Yard, lamps: List<Lamp>? optional, doors: Door many, make: unknown)",
        "  new Gate(yard: Yard)",
        "  @Make(name='x') lamp(at: Int, @Key('y') door: Door): Lamp?",
        "  open(of: T): Map<String, T>",
        "  of(): Gate",
        "  field @Given() lamp: Lamp",
        "  field number: Int = 5",
        "  field lazy: unknown",
        "  field KEY: unknown = 'gate'",
        "object a.annotation.Yard : Place",
        "interface a.annotation.Called : Place, unknown",
        "class a.annotation.Other",
        "  new Other(at: Int)",
        "  of()",
        "interface a.annotation.Place",
        "  at(): Int",
        "class a.annotation.Track",
        "  new Track(number: Int)",
        "class a.annotation.Empty",
        "enum a.annotation.Side",
        "  new Side(x: Int)",
        "  of()",
        "  from(x: Int)",
        "alias a.annotation.Doors : List<Door>",
    ]
)]
fn kotlin(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::Kotlin, "", Methods::Whole);
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    samples::C_SHARP,
    &[
        "@Part('gate', Key=Keys.Main) @Other(type Lamp) class Velmora.Depot.Gate : Base<T>, IPart",
        "  new Gate(yard: IYard, number: int? optional)",
        "  new Gate(@Key('x') yard: IYard, lamps: Lamp many)",
        "  Open(at: int, of: U, make: Func<int, T> optional): Task<T>",
        "  Behind(this: Gate<T>): void",
        "  Pair(number: int)",
        "  Other(number: int)",
        "  field Key: string = 'main'",
        "  field lamps: Dictionary<string, List<Lamp?>>",
        "  field @Given() Lamp: Lamp",
        "  field Other: Lamp",
        "  field Opened: Action<int>",
        "record Velmora.Depot.Track",
        "  new Track(Number: int, Yard: IYard)",
        "abstract-class Velmora.Depot.Tools",
        "  static Of(gate: Gate): int",
        "enum Velmora.Depot.Side",
        "class Velmora.Depot.Last",
    ]
)]
fn c_sharp(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::CSharp, "", Methods::Whole);
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    samples::PHP,
    &[
        "@Part('gate', key=Keys.MAIN) abstract-class Velmora\\Depot\\Gate : Door, Place, \\Velmora\\Part, Lit, Heated",
        "  new __construct(yard: Yard, @Key('x') lamp: Light? optional, door: |<Door, Place>? optional, numbers: int many)",
        "  static make(gate: self): static?",
        "  abstract open(of: array): void",
        "  __call(name: unknown, arguments: unknown)",
        "  field KEY: unknown = 'main'",
        "  field OTHER: unknown = 'ab'",
        "  field lamp: Light?",
        "  field all: array",
        "enum Velmora\\Depot\\Side",
        "  of(): int",
        "  field Left: unknown = 'l'",
        "class Velmora\\Depot\\Other",
    ]
)]
fn php(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::Php, "", Methods::Whole);
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    samples::TYPE_SCRIPT,
    &[
        "@Part(key='gate', of=Door) abstract-class depot/gate#Gate : kit.Door<T>, Opening",
        "  new constructor(@Key('x') yard: Place, lamp: Lamp? optional, rest: Door many)",
        "  @Make('x') open(at: number, make: unknown optional): Promise<U>",
        "  lit(): boolean",
        "  namespace(): string",
        "  abstract close(): void",
        "  field KEY: unknown = 'main'",
        "  field lamps: Map<string, []<Lamp>>",
        "  field pattern: unknown",
        "  field $part: unknown",
        "  field step: unknown",
        "  field test: unknown",
        "  field long: unknown = 'class No {      class No {'",
        "interface depot/gate#Opening : One, Two",
        "  go(where: string): void",
        "  flat(depth: D optional): void",
        "  field at: number",
        "alias depot/gate#Doors : []<Door>",
        "enum depot/gate#Side",
        "class depot/gate#kit.Inner",
    ]
)]
fn type_script(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::TypeScript, "depot/gate", Methods::Whole);
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

/// A mistake in one type hides no other one; that there is one is told.
#[rstest]
#[case::brace_too_few(
    "a/Gate.java",
    "class Gate {\n  void open() {\n}\n\nclass Yard {\n  Yard(Lamp lamp) {}\n}\n"
)]
#[case::brace_too_many(
    "a/gate.ts",
    "class Gate { open() { } } }\n\nclass Yard {\n  constructor(lamp: Lamp) {}\n}\n"
)]
#[case::two_versions(
    "a/Gate.cs",
    "class Gate {\n<<<<<<< ours\n  void Open() {\n=======\n  void Close() {\n>>>>>>> theirs\n  }\n}\n\n\
     class Yard {\n  Yard(Lamp lamp) {}\n}\n"
)]
fn what_stands_behind_a_mistake_is_known(#[case] path: &str, #[case] text: &str) {
    let language = Language::of_ending(path).unwrap();
    let read =
        super::read(path, text.as_bytes().to_vec(), (language, Methods::Whole), None, &Interner::default());
    let yard = read.file.outline.types.iter().find(|one| one.name.ends_with("Yard")).unwrap();
    assert_eq!(yard.constructors[0].parameters[0].name, "lamp");
    assert!(read.blind_spot.is_some());
}

/// An escaped end of a line may be two bytes.
#[test]
fn a_string_goes_on_behind_an_escaped_end_of_a_line() {
    let text = "class A { s = \"class No {\\\r\n\" }\r\nclass B { }";
    let (found, doubt) = outline(text, Language::TypeScript, "x", Methods::Whole);
    assert_eq!((found.types.len(), doubt), (2, None));
}

/// What was kept is read back as it was, and anybody's bytes only so deep.
#[rstest]
#[case::some(60, true)]
#[case::too_many(64, false)]
#[case::far_too_many(100_000, false)]
fn what_is_kept_is_no_deeper_than_what_is_read(#[case] depth: usize, #[case] is_read: bool) {
    let plain = TypeUse { name: "A".to_owned(), ..TypeUse::default() };
    // A list of four: its name, a list of its arguments, whether it may be nothing, and two offsets.
    let (name, rest) = ([0x94, 0xa1, b'A'], [0xc2, 0x92, 0, 0]);
    let before = [&name[..], &[0x91]].concat().repeat(depth);
    let bytes = [&before[..], &name, &[0x90], &rest.repeat(depth + 1)].concat();
    let read: Option<TypeUse> = rmp_serde::from_slice(&bytes).ok();
    assert_eq!(read.is_some(), is_read);
    let around = |inner: TypeUse, _: usize| TypeUse { arguments: vec![inner], ..plain.clone() };
    if let Some(read) = read {
        assert_eq!(read, (0..depth).fold(plain.clone(), around));
    }
}
