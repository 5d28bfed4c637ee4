//! Source with every form of declaration that the skim reads, a language each.

use super::super::Language;

pub(super) const JAVA: &str = r#"package a;
@Part("gate") @Other(key = Keys.MAIN, of = { Door.class, Lamp.class })
public abstract class Gate<T extends Door> extends Door<T> implements Part, a.b.Lit<String, T[]> {
    public static final String KEY = "main";
    private final Map<String, List<? extends Lamp>> lamps = new HashMap<>() { void no() {} };
    @Given(key = "x") int number, other;
    public Gate(final @Key("y") Yard yard, Lamp... lamps) throws Exception, Error { super(no(1)); }
    private Gate() {}
    @Override public <R> Map<String, R> open(int at, Yard[] yards) throws IOException { if (a < b) { no(); } return null; }
    abstract void close(Gate<T> this);
    int operator(int a, int b) { return a; }
    static Gate of(String text) { return new Gate(text) { void no() {} }; }
}"#;

pub(super) const KOTLIN: &str = r#"package a.annotation

class First

@Part(name = "gate")
class Gate @Built constructor(private val yard: Yard, lamps: List<Lamp>? = null, vararg doors: Door, make: () -> Lamp) : Door<Lamp>(yard), Part by yard {
    constructor(yard: Yard) : this(yard, null)
    @Given lateinit var lamp: Lamp
    private val number: Int = 5
    val lazy by lazy { Lamp("x") }
    @Make(name = "x") fun lamp(at: Int, @Key("y") door: Door): Lamp? = Lamp { no(it) }
    suspend fun <T : Door> open(of: T): Map<String, T> { class No; return x }
    fun Door.extended() = 1
    fun (() -> Door?).extended() = 1
    companion object {
        const val KEY = "gate"
        fun of(): Gate = Gate()
    }
}
object Yard : Place
interface Called : Place, (Int) -> Unit
class Other protected actual constructor(actual val at: Int) {
    companion object : Maker<Other>("x", Other::class)
    fun of() { }
}
sealed interface Place {
    fun at(): Int
}
data class Track(val number: Int)
class Empty
fun outside() { }
enum class Side(val x: Int) {
    LEFT(1), RIGHT(2);
    fun of() = x
    companion object {
        fun from(x: Int) = LEFT
    }
}
fun outside(): Int {
    class Hidden : Door() { }
    return 1
}
typealias Doors = List<Door>"#;

pub(super) const C_SHARP: &str = r#"using System; using Door = Velmora.Kit.Door<int>;
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
    public static bool operator ==(Gate<T> a, Gate<T> b) { return a.Equals(b); }
    public static bool operator <=(Gate<T> a, Gate<T> b) { return true; }
    public void Behind(Gate<T> @this) { }
    public static implicit operator Gate<T>(int number) => null;
    static (int, T) Pair(int number) { return (1, default); }
    (int, T) Other(int number) { return (1, default); }
}
public record Track(int Number, IYard Yard);
public static class Tools { public static int Of(this Gate gate) => 1; }
enum Side {
    Left = 1,
#if ONE
    Right = 2
#else
    Right = 3
#endif
}
class Last { }"#;

pub(super) const PHP: &str = r#"<?php
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
if (!class_exists(Other::class)) :
class Other {}
endif;
function outside(Gate $gate) {}"#;

pub(super) const TYPE_SCRIPT: &str = r#"import { Yard as Place, type Lamp } from "./yard";
import * as kit from '../kit';
export { Door as Way } from "./door";
@Part({ key: "gate", of: Door })
export default abstract class Gate<T> extends kit.Door<T> implements Opening {
    static readonly KEY = "main"
    private lamps: Map<string, Lamp[]> = new Map()
    pattern = /class No \{/g
    $part = this.frame! / 2 / 3
    step = () => this.at-- / 2
    test = (text: string) => /^class No \{/.test(text)
    long = "class No {\
      class No {"
    constructor(@Key("x") private readonly yard: Place, protected lamp?: Lamp | null, ...rest: Door[]) { super(yard) }
    @Make("x") async open<U>(at: number, make: (x: number) => U = no(1)): Promise<U> { return `${class No {}}` }
    get lit(): boolean { return true }
    get namespace(): string { return "x" }
    abstract close(this: Gate<T>): void;
}
export interface Opening extends One, Two {
    at: number; go(where: string): void
    [key: string]: number | readonly (string | number)[];
    flat<A, D extends number = 1>(this: A, depth?: D): void
}
export type Doors = Door[];
export enum Side { Left = "l" }
declare module kit {
    class Inner { }
}
function f() { class No {} }"#;

pub(super) const PYTHON: &str = r#"import abc
from velmora.kit import Door as Way, Part
from typing import Optional


@Part("gate", key=Keys.MAIN)
class Gate(Way, abc.ABC, metaclass=Maker):
    """A gate. class No: pass"""

    KEY = "main"
    lamp: Lamp = None

    class Lock(object):
        def turn(self, times: int = 1, *, by=None): return times

    def __init__(self, yard: "Yard", lamps: list[Lamp] = (), *doors: Door, key=None, **more):
        self.yard = yard
        class Hidden: pass

    @staticmethod
    def make(text: str) -> "Gate":
        return f"{text} def no(self): {{"

    @property
    def lit(self) -> bool: return True

    async def open(
        self,
        at: int,
        of: Optional[Lamp] = None,  # def no(self):
    ) -> dict[str, "Lamp"]:
        if at < 2: return {}
        def inner(no): pass

if TYPE_CHECKING:
    class Only(Part): pass


def outside(gate: Gate): ...
"#;

pub(super) const SAMPLES: &[(Language, &str)] = &[
    (Language::Java, JAVA),
    (Language::Kotlin, KOTLIN),
    (Language::CSharp, C_SHARP),
    (Language::Php, PHP),
    (Language::TypeScript, TYPE_SCRIPT),
    (Language::Python, PYTHON),
];
