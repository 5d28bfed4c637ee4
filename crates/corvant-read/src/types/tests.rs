//! What the skim makes of types and their members, written in one line each.

use super::Language;
use super::outline::{Callable, Literal, Mark, Outline, TypeUse, Value};
use super::skim::outline;
use corvant_core::facts::TypeKind;
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
    r#"package a;
@Part("gate") @Other(key = Keys.MAIN, of = { Door.class, Lamp.class })
public abstract class Gate<T extends Door> extends Door<T> implements Part, a.b.Lit<String, T[]> {
    public static final String KEY = "main";
    private final Map<String, List<? extends Lamp>> lamps = new HashMap<>() { void no() {} };
    @Given(key = "x") int number, other;
    public Gate(final @Key("y") Yard yard, Lamp... lamps) throws Exception, Error { super(no(1)); }
    private Gate() {}
    @Override public <R> Map<String, R> open(int at, Yard[] yards) throws IOException { if (a < b) { no(); } return null; }
    abstract void close();
    static Gate of(String text) { return new Gate(text) { void no() {} }; }
}"#,
    &[
        "@Part('gate') @Other(key=Keys.MAIN, of=[type Door, type Lamp]) abstract-class a.Gate : Door<T>, Part, a.b.Lit<String, []<T>>",
        "  new Gate(@Key('y') yard: Yard, lamps: Lamp many)",
        "  new private Gate()",
        "  @Override() open(at: int, yards: []<Yard>): Map<String, R>",
        "  abstract close(): void",
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
    let (found, doubt) = outline(text, Language::Java, "");
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    r#"package a
@Part(name = "gate")
class Gate @Built constructor(private val yard: Yard, lamps: List<Lamp>? = null, vararg doors: Door, make: () -> Lamp) : Door<Lamp>(yard), Part by yard {
    constructor(yard: Yard) : this(yard, null)
    @Given lateinit var lamp: Lamp
    private val number: Int = 5
    val lazy by lazy { Lamp("x") }
    @Make(name = "x") fun lamp(at: Int, @Key("y") door: Door): Lamp? = Lamp { no(it) }
    suspend fun <T : Door> open(of: T): Map<String, T> { class No; return x }
    fun Door.extended() = 1
    companion object { const val KEY = "gate"; fun of(): Gate = Gate() }
}
object Yard : Place
sealed interface Place { fun at(): Int }
data class Track(val number: Int)
class Empty
fun outside() { }
enum class Side(val x: Int) { LEFT(1), RIGHT(2); fun of() = x; companion object { fun from(x: Int) = LEFT } }
typealias Doors = List<Door>"#,
    &[
        "@Part(name='gate') class a.Gate : Door<Lamp>, Part",
        "  new @Built() Gate(yard: Yard, lamps: List<Lamp>? optional, doors: Door many, make: unknown)",
        "  new Gate(yard: Yard)",
        "  @Make(name='x') lamp(at: Int, @Key('y') door: Door): Lamp?",
        "  open(of: T): Map<String, T>",
        "  of(): Gate",
        "  field @Given() lamp: Lamp",
        "  field number: Int = 5",
        "  field lazy: unknown",
        "  field KEY: unknown = 'gate'",
        "object a.Yard : Place",
        "interface a.Place",
        "  at(): Int",
        "class a.Track",
        "  new Track(number: Int)",
        "class a.Empty",
        "enum a.Side",
        "  new Side(x: Int)",
        "  of()",
        "  from(x: Int)",
        "alias a.Doors : List<Door>",
    ]
)]
fn kotlin(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::Kotlin, "");
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    r#"using System; using Door = Velmora.Kit.Door<int>;
namespace Velmora.Depot;
[Part("gate", Key = Keys.Main), Other(typeof(Lamp))]
public sealed class Gate<T>(IYard yard, int? number = null) : Base<T>(yard), IPart where T : class, new()
{
    public const string Key = "main";
    private readonly Dictionary<string, List<Lamp?>> lamps = new();
    [Given] public Lamp Lamp { get; set; } = new Lamp();
    public Lamp Other => lamps[0];
    public event Action<int> Opened;
    static Gate() { }
    public Gate([Key("x")] IYard yard, params Lamp[] lamps) : this(yard) { No(); }
    ~Gate() { }
    public async Task<T> Open<U>(int at, ref U of, Func<int, T> make = default) where U : T => await No(at);
    void IPart.Hidden() { }
    public static Gate<T> operator +(Gate<T> a, Gate<T> b) => a;
    public static implicit operator Gate<T>(int number) => null;
    static (int, T) Pair(int number) { return (1, default); }
}
public record Track(int Number, IYard Yard);
public static class Tools { public static int Of(this Gate gate) => 1; }
enum Side { Left = 1, Right }"#,
    &[
        "@Part('gate', Key=Keys.Main) @Other(type Lamp) class Velmora.Depot.Gate : Base<T>, IPart",
        "  new Gate(yard: IYard, number: int? optional)",
        "  new Gate(@Key('x') yard: IYard, lamps: Lamp many)",
        "  Open(at: int, of: U, make: Func<int, T> optional): Task<T>",
        "  Pair(number: int)",
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
    ]
)]
fn c_sharp(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::CSharp, "");
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    r#"<?php
namespace Velmora\Depot;
use Velmora\Kit\{Door, Lamp as Light};
#[Part('gate', key: Keys::MAIN)]
abstract class Gate extends Door implements Place, \Velmora\Part {
    use Lit, Heated { Lit::on insteadof Heated; }
    const KEY = 'main';
    public const string OTHER = "a" . "b";
    private ?Light $lamp = null;
    protected array $all = ['x' => 1, 'y' => [2]], $more;
    public function __construct(private readonly Yard $yard, #[Key('x')] ?Light $lamp = null, Door|Place|null $door = null, int ...$numbers) { foreach ($x as $y) { no(); } }
    public static function make(self $gate): ?static { return new class extends No { function no() {} }; }
    abstract protected function open(array &$of): void;
    public function __call($name, $arguments) {}
}
enum Side: string { case Left = 'l'; public function of(): int { return 1; } }
function outside(Gate $gate) {}"#,
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
    ]
)]
fn php(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::Php, "");
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}

#[rstest]
#[case(
    r#"import { Yard as Place, type Lamp } from "./yard";
import * as kit from '../kit';
export { Door as Way } from "./door";
@Part({ key: "gate", of: Door })
export default abstract class Gate<T> extends kit.Door<T> implements Opening {
    static readonly KEY = "main"
    private lamps: Map<string, Lamp[]> = new Map()
    pattern = /class No \{/g
    $part = this.frame! / 2 / 3
    constructor(@Key("x") private readonly yard: Place, protected lamp?: Lamp | null, ...rest: Door[]) { super(yard) }
    @Make("x") async open<U>(at: number, make: (x: number) => U = no(1)): Promise<U> { return `${class No {}}` }
    get lit(): boolean { return true }
    abstract close(): void;
}
export interface Opening extends One, Two { at: number; go(where: string): void }
export type Doors = Door[];
export enum Side { Left = "l" }
function f() { class No {} }"#,
    &[
        "@Part(key='gate', of=Door) abstract-class depot/gate#Gate : kit.Door<T>, Opening",
        "  new constructor(@Key('x') yard: Place, lamp: Lamp? optional, rest: Door many)",
        "  @Make('x') open(at: number, make: unknown optional): Promise<U>",
        "  lit(): boolean",
        "  abstract close(): void",
        "  field KEY: unknown = 'main'",
        "  field lamps: Map<string, []<Lamp>>",
        "  field pattern: unknown",
        "  field $part: unknown",
        "interface depot/gate#Opening : One, Two",
        "  go(where: string): void",
        "  field at: number",
        "alias depot/gate#Doors : []<Door>",
        "enum depot/gate#Side",
    ]
)]
fn type_script(#[case] text: &str, #[case] expected: &[&str]) {
    let (found, doubt) = outline(text, Language::TypeScript, "depot/gate");
    assert_eq!((shown(&found), doubt), (expected.iter().map(|line| (*line).to_owned()).collect(), None));
}
