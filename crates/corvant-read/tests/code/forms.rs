use crate::said::{said, said_of};
use rstest::rstest;

/// A call with two types, or a type and itself, the lifetime in its name: of what the pattern asks, and of nothing else.
const TWO_TYPES: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERNS }
id = { from = "$.TYPE", full = true }
type = { from = "$.TYPE", full = true }
offers = { from = "$.CONTRACT", full = true }
lifetime = { from = "$.HOW", map = { keepShared = "process", keepFresh = "use", keep_shared = "process", keep_fresh = "use", KeepShared = "process", KeepFresh = "use" } }
"#;

#[rstest]
#[case::java(
    "java",
    "'stock.$HOW($CONTRACT.class, $TYPE.class)'",
    "package velmora.depot; import velmora.kit.Open; class Setup { void fill(Stock stock) {
        stock.keepShared(Open.class, Gate.class);
        stock
            .keepFresh(Open.class, Lamp.class);
        other.keepShared(Open.class, Bell.class);
        stock.keepShared(Open.class);
    } } class Gate {} class Lamp {}"
)]
#[case::kotlin(
    "kotlin",
    "'stock.$HOW<$CONTRACT, $TYPE>()'",
    "package velmora.depot
    import velmora.kit.Open
    fun fill(stock: Stock) {
        stock.keepShared<Open, Gate>()
        stock
            .keepFresh<Open, Lamp>()
        other.keepShared<Open, Bell>()
        stock.keepShared<Open>()
    }
    class Gate
    class Lamp"
)]
#[case::csharp(
    "csharp",
    "'stock.$HOW<$CONTRACT, $TYPE>()'",
    "using velmora.kit; namespace velmora.depot { class Setup { void Fill(Stock stock) {
        stock.KeepShared<velmora.kit.Open, Gate>();
        stock
            .KeepFresh<velmora.kit.Open, Lamp>();
        other.KeepShared<velmora.kit.Open, Bell>();
        stock.KeepShared<velmora.kit.Open>();
    } } class Gate {} class Lamp {} }"
)]
#[case::php(
    "php",
    "'$stock->$HOW($CONTRACT::class, $TYPE::class)'",
    "<?php namespace velmora\\depot; use velmora\\kit\\Open;
    $stock->keepShared(Open::class, Gate::class);
    $stock
        ->keepFresh(Open::class, Lamp::class);
    $other->keepShared(Open::class, Bell::class);
    $stock->keepShared(Open::class);"
)]
#[case::typescript(
    "typescript",
    "'stock.$HOW($CONTRACT, $TYPE)'",
    "import { Open } from '../kit'; import { Gate, Lamp } from './parts';
    export function fill(stock: Stock) {
        stock.keepShared(Open, Gate);
        stock
            .keepFresh(Open, Lamp);
        other.keepShared(Open, Bell);
        stock.keepShared(Open);
    }"
)]
#[case::python(
    "python",
    "'stock.$HOW($CONTRACT, $TYPE)'",
    "from velmora.kit import Open
from velmora.depot.parts import Gate, Lamp
def fill(stock):
    stock.keep_shared(Open, Gate)
    (stock
        .keep_fresh(Open, Lamp))
    other.keep_shared(Open, Bell)
    stock.keep_shared(Open)
"
)]
fn a_call_with_two_types(#[case] language: &str, #[case] patterns: &str, #[case] code: &str) {
    let found = said(language, &TWO_TYPES.replace("PATTERNS", patterns), code);
    let (kit, gate, lamp) = match language {
        "php" => (r"velmora\kit\Open", r"velmora\depot\Gate", r"velmora\depot\Lamp"),
        "typescript" => ("kit#Open", "depot/parts#Gate", "depot/parts#Lamp"),
        "python" => ("velmora.kit.Open", "velmora.depot.parts.Gate", "velmora.depot.parts.Lamp"),
        _ => ("velmora.kit.Open", "velmora.depot.Gate", "velmora.depot.Lamp"),
    };
    let expected = [
        format!("service {gate}, type {gate}, offers {kit}, lifetime process"),
        format!("service {lamp}, type {lamp}, offers {kit}, lifetime use"),
    ];
    assert_eq!(found, expected);
}

/// Every beginning of a chain of calls is one too, and is one item with it; what is called on it may say how long it lives and its
/// key. A chain of registrations is as many items.
const CHAINED: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERNS }
id = { from = "$.TYPE", full = true }
offers = { from = "$.CONTRACT", full = true }
key = "$['@chain'].under[0]"
lifetime = { from = "$['@chain'].once", key = true, map = { once = "process" }, absent = "use" }
"#;

#[rstest]
#[case::java(
    "java",
    "['$R.keep($TYPE.class).answering($CONTRACT.class)', '$R.keep($TYPE.class)']",
    "package v; class S { void f(Stock s) {
        s.keep(Gate.class).answering(Open.class).once().under(\"north\");
        s.keep(Lamp.class);
        s.keep(Bell.class).keep(Horn.class).once();
    } }"
)]
#[case::kotlin(
    "kotlin",
    "['$R.keep($TYPE::class).answering($CONTRACT::class)', '$R.keep($TYPE::class)']",
    "package v
    fun f(s: Stock) {
        s.keep(Gate::class).answering(Open::class).once().under(\"north\")
        s.keep(Lamp::class)
        s.keep(Bell::class).keep(Horn::class).once()
    }"
)]
#[case::csharp(
    "csharp",
    "['$R.keep<$TYPE>().answering<$CONTRACT>()', '$R.keep<$TYPE>()']",
    "namespace v { class S { void f(Stock s) {
        s.keep<Gate>().answering<Open>().once().under(\"north\");
        s.keep<Lamp>();
        s.keep<Bell>().keep<Horn>().once();
    } } }"
)]
#[case::php(
    "php",
    "['$R->keep($TYPE::class)->answering($CONTRACT::class)', '$R->keep($TYPE::class)']",
    "<?php namespace v;
        $s->keep(Gate::class)->answering(Open::class)->once()->under('north');
        $s->keep(Lamp::class);
        $s->keep(Bell::class)->keep(Horn::class)->once();"
)]
#[case::typescript(
    "typescript",
    "['$R.keep($TYPE).answering($CONTRACT)', '$R.keep($TYPE)']",
    "import { Gate, Open, Lamp, Bell, Horn } from '../v';
        s.keep(Gate).answering(Open).once().under('north');
        s.keep(Lamp);
        s.keep(Bell).keep(Horn).once();"
)]
#[case::python(
    "python",
    "['$R.keep($TYPE).answering($CONTRACT)', '$R.keep($TYPE)']",
    "from v import Gate, Open, Lamp, Bell, Horn
s.keep(Gate).answering(Open).once().under('north')
s.keep(Lamp)
s.keep(Bell).keep(Horn).once()
"
)]
fn a_chain_of_calls(#[case] language: &str, #[case] patterns: &str, #[case] code: &str) {
    let found = said(language, &CHAINED.replace("PATTERNS", patterns), code);
    let name = |short: &str| match language {
        "php" => format!(r"v\{short}"),
        "typescript" => format!("v#{short}"),
        _ if language != "python" && short != "Gate" => short.to_owned(),
        _ => short.to_owned(),
    };
    let full = |short: &str| if language == "python" { format!("v.{short}") } else { name(short) };
    let expected = [
        format!("service {}, offers {}, key north, lifetime process", full("Gate"), full("Open")),
        format!("service {}, lifetime use", full("Lamp")),
        format!("service {}, lifetime process", full("Horn")),
        format!("service {}, lifetime process", full("Bell")),
    ];
    let mut sorted = found.clone();
    sorted.sort();
    let mut wanted = expected.to_vec();
    wanted.sort();
    assert_eq!(sorted, wanted);
}

/// What stands around a registration may say more of it, and is one item with it.
const AROUND: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERNS }
id = "$.ID"
lifetime = { from = "$.HOW", absent = "use" }
"#;

#[rstest]
#[case::java(
    "java",
    "class S { void f() { process(stock.keep(\"gate\")); stock.keep(\"lamp\"); } }",
    "['$HOW(stock.keep($ID))', 'stock.keep($ID)']"
)]
#[case::kotlin(
    "kotlin",
    "fun f() { process(stock.keep(\"gate\")); stock.keep(\"lamp\") }",
    "['$HOW(stock.keep($ID))', 'stock.keep($ID)']"
)]
#[case::csharp(
    "csharp",
    "class S { void f() { process(stock.keep(\"gate\")); stock.keep(\"lamp\"); } }",
    "['$HOW(stock.keep($ID))', 'stock.keep($ID)']"
)]
#[case::php(
    "php",
    "<?php process($stock->keep('gate')); $stock->keep('lamp');",
    "['$HOW($stock->keep($ID))', '$stock->keep($ID)']"
)]
#[case::typescript(
    "typescript",
    "process(stock.keep('gate')); stock.keep(`lamp`);",
    "['$HOW(stock.keep($ID))', 'stock.keep($ID)']"
)]
#[case::python(
    "python",
    "process(stock.keep('gate'))\nstock.keep(\"lamp\")\n",
    "['$HOW(stock.keep($ID))', 'stock.keep($ID)']"
)]
fn what_stands_around_a_call(#[case] language: &str, #[case] code: &str, #[case] patterns: &str) {
    let found = said(language, &AROUND.replace("PATTERNS", patterns), code);
    assert_eq!(found, ["service gate, lifetime process", "service lamp, lifetime use"]);
}

/// A key is a literal, a constant of another file, or a member of an enumeration; one that is worked out is not seen, and neither
/// is what it is given for.
const KEYED: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERNS }
id = "$.ID"
offers = "Bay"
key = "$.KEY"
"#;

#[rstest]
#[case::java(
    "java", "'stock.keep($ID, $KEY)'", "java",
    "package v; class Keys { static final String SOUTH = \"south\"; } enum Side { EAST, WEST }",
    "package v; class S { void f() {
        stock.keep(\"a\", \"north\"); stock.keep(\"b\", Keys.SOUTH); stock.keep(\"c\", Side.EAST); stock.keep(\"d\", side()); stock.keep(\"e\", key);
    } }"
)]
#[case::kotlin(
    "kotlin", "'stock.keep($ID, $KEY)'", "kt",
    "package v\nobject Keys { const val SOUTH = \"south\" }\nenum class Side { EAST, WEST }",
    "package v
    fun f() { stock.keep(\"a\", \"north\"); stock.keep(\"b\", Keys.SOUTH); stock.keep(\"c\", Side.EAST); stock.keep(\"d\", side()); stock.keep(\"e\", key) }"
)]
#[case::csharp(
    "csharp", "'stock.keep($ID, $KEY)'", "cs",
    "namespace v { class Keys { public const string SOUTH = \"south\"; } enum Side { EAST, WEST } }",
    "namespace v { class S { void f() {
        stock.keep(\"a\", \"north\"); stock.keep(\"b\", Keys.SOUTH); stock.keep(\"c\", Side.EAST); stock.keep(\"d\", side()); stock.keep(\"e\", key);
    } } }"
)]
#[case::php(
    "php", "'$stock->keep($ID, $KEY)'", "php",
    "<?php namespace v; class Keys { const SOUTH = 'south'; } enum Side { case EAST; case WEST; }",
    "<?php namespace v;
        $stock->keep('a', 'north'); $stock->keep('b', Keys::SOUTH); $stock->keep('c', Side::EAST); $stock->keep('d', side()); $stock->keep('e', $key);"
)]
#[case::typescript(
    "typescript", "'stock.keep($ID, $KEY)'", "ts",
    "export class Keys { static readonly SOUTH = 'south'; } export enum Side { EAST, WEST }",
    "import { Keys, Side } from './Other';
        stock.keep('a', 'north'); stock.keep('b', Keys.SOUTH); stock.keep('c', Side.EAST); stock.keep('d', side()); stock.keep('e', key);"
)]
#[case::python(
    "python",
    "'stock.keep($ID, $KEY)'",
    "py",
    "from enum import Enum\nclass Keys:\n    SOUTH = 'south'\nclass Side(Enum):\n    EAST = 1\n    WEST = 2\n",
    "from depot.Other import Keys, Side
stock.keep('a', 'north')
stock.keep('b', Keys.SOUTH)
stock.keep('c', Side.EAST)
stock.keep('d', side())
stock.keep('e', key)
"
)]
fn keys(
    #[case] language: &str,
    #[case] patterns: &str,
    #[case] ending: &str,
    #[case] other: &str,
    #[case] code: &str,
) {
    let (other_path, path) = (format!("depot/Other.{ending}"), format!("depot/Setup.{ending}"));
    let found =
        said_of(language, &KEYED.replace("PATTERNS", patterns), &[(&other_path, other), (&path, code)]);
    let unseen = if language == "php" { "unseen $key" } else { "unseen key" };
    assert_eq!(
        found,
        [
            "service a, offers Bay, key north",
            "service b, offers Bay, key south",
            "service c, offers Bay, key EAST",
            "unseen side()",
            unseen,
        ]
    );
}

/// Constants that stand outside of types: of the file itself, and of another that it imports.
#[rstest]
#[case::kotlin(
    "kotlin",
    "kt",
    "'stock.keep($ID)'",
    "package v\nconst val SOUTH = \"south\"",
    "package v
const val north: String = \"north\"
fun f() { stock.keep(north); stock.keep(SOUTH); stock.keep(west) }
val west = worked() + \"west\""
)]
#[case::php(
    "php",
    "php",
    "'$stock->keep($ID)'",
    "<?php namespace v; const SOUTH = 'south';",
    "<?php namespace v;
const north = 'north';
$stock->keep(north); $stock->keep(SOUTH); $stock->keep($west);"
)]
#[case::typescript("typescript", "ts", "'stock.keep($ID)'", "export const SOUTH = 'south' as const;", "import { SOUTH } from './Other';
namespace inner { const north = 'north'; }
let west = 'west';
function f() { stock.keep(north); stock.keep(SOUTH); stock.keep(west); const inner = 'inner'; stock.keep(inner); }")]
#[case::python(
    "python",
    "py",
    "'stock.keep($ID)'",
    "SOUTH = 'south'\n",
    "from depot.Other import SOUTH
north = 'north'
west = 'w' + worked()
stock.keep(north)
stock.keep(SOUTH)
stock.keep(west)
"
)]
fn constants_outside_of_types(
    #[case] language: &str,
    #[case] ending: &str,
    #[case] pattern: &str,
    #[case] other: &str,
    #[case] code: &str,
) {
    let takes = format!("[[reader.take]]\nwhat = 'service'\neach = {{ code = {pattern} }}\nid = '$.ID'\n");
    let (other_path, path) = (format!("depot/Other.{ending}"), format!("depot/Setup.{ending}"));
    let found = said_of(language, &takes, &[(&other_path, other), (&path, code)]);
    assert_eq!(found[..2], ["service north", "service south"], "{found:?}");
    assert!(found[2..].iter().all(|line| line.starts_with("unseen ")) && found.len() > 2, "{found:?}");
}

#[test]
fn open_generics_have_stars() {
    let takes = TWO_TYPES.replace("PATTERNS", "'stock.$HOW(typeof($CONTRACT), typeof($TYPE))'");
    let code = "namespace v { class S { void f() {
        stock.KeepShared(typeof(IStore<>), typeof(Store<>));
        stock.KeepShared(typeof(IMap<,>), typeof(Map<,>));
        stock.KeepShared(typeof(IStore<Ticket>), typeof(TicketStore));
    } } class Ticket {} class Store<T> {} }";
    assert_eq!(
        said("csharp", &takes, code),
        [
            "service v.Store<*>, type v.Store<*>, offers IStore<*>, lifetime process",
            "service Map<*, *>, type Map<*, *>, offers IMap<*, *>, lifetime process",
            "service TicketStore, type TicketStore, offers IStore<v.Ticket>, lifetime process",
        ]
    );
}

/// A factory in the call: what it makes, and what it fetches on its own parameter. What stands beside it, or is fetched on anything
/// else, is none of its needs; a factory that stands elsewhere is not seen.
const FACTORY: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERNS }
id = "$.ID"
type = { from = "$.TYPE", full = true }
[[reader.take.need]]
inside = "$.MAKER"
code = FETCH
same = { S = "$.P" }
service = "$.NEEDED"
slot = "$.NEEDED"
[[reader.take.need]]
inside = "$.MAKER"
code = TRY
same = { S = "$.P" }
service = "$.NEEDED"
slot = "$.NEEDED"
optional = true
[[reader.blind]]
code = BLIND
"#;

fn factory(patterns: &str, fetch: &str, try_: &str, blind: &str) -> String {
    let takes = FACTORY.replace("PATTERNS", patterns).replace("FETCH", fetch);
    takes.replace("TRY", try_).replace("BLIND", blind)
}

#[rstest]
#[case::java(
    "java",
    factory(
        "['stock.keep($ID, $P -> new $TYPE($$$MAKER))', 'stock.keep($ID, $P -> $MAKER)']",
        "'$S.take($NEEDED)'",
        "'$S.tryTake($NEEDED)'",
        "'stock.keep($ID, $ELSEWHERE)'"
    ),
    "package v; class S { void f(Stock stock) {
        stock.keep(\"gate\", s -> new Gate(s.take(\"lock\"), s.tryTake(\"bell\"), other.take(\"horn\")));
        stock.take(\"beside\");
        stock.keep(\"lamp\", S::makeLamp);
    } } class Gate {}"
)]
#[case::kotlin(
    "kotlin",
    factory(
        "['stock.keep($ID) { $P -> $TYPE($$$MAKER) }']",
        "'$S.take($NEEDED)'",
        "'$S.tryTake($NEEDED)'",
        "'stock.keep($ID, $ELSEWHERE)'"
    ),
    "package v
    fun f(stock: Stock) {
        stock.keep(\"gate\") { s -> Gate(s.take(\"lock\"), s.tryTake(\"bell\"), other.take(\"horn\")) }
        stock.take(\"beside\")
        stock.keep(\"lamp\", ::makeLamp)
    }
    class Gate"
)]
#[case::csharp(
    "csharp",
    factory(
        "['stock.keep($ID, $P => new $TYPE($$$MAKER))', 'stock.keep($ID, $P => $MAKER)']",
        "'$S.take($NEEDED)'",
        "'$S.tryTake($NEEDED)'",
        "'stock.keep($ID, $ELSEWHERE)'"
    ),
    "namespace v { class S { void f(Stock stock) {
        stock.keep(\"gate\", s => new Gate(s.take(\"lock\"), s.tryTake(\"bell\"), other.take(\"horn\")));
        stock.take(\"beside\");
        stock.keep(\"lamp\", makeLamp);
    } } class Gate {} }"
)]
#[case::php(
    "php",
    factory(
        "['$stock->keep($ID, fn($P) => new $TYPE($$$MAKER))']",
        "'$S->take($NEEDED)'",
        "'$S->tryTake($NEEDED)'",
        "'$stock->keep($ID, $ELSEWHERE)'"
    ),
    "<?php namespace v; class Gate {}
        $stock->keep('gate', fn($s) => new Gate($s->take('lock'), $s->tryTake('bell'), $other->take('horn')));
        $stock->take('beside');
        $stock->keep('lamp', $makeLamp);"
)]
#[case::typescript(
    "typescript",
    factory(
        "['stock.keep($ID, $P => new $TYPE($$$MAKER))', 'stock.keep($ID, ($P) => new $TYPE($$$MAKER))']",
        "'$S.take($NEEDED)'",
        "'$S.tryTake($NEEDED)'",
        "'stock.keep($ID, $ELSEWHERE)'"
    ),
    "export class Gate {}
        stock.keep('gate', s => new Gate(s.take('lock'), s.tryTake('bell'), other.take('horn')));
        stock.take('beside');
        stock.keep('lamp', makeLamp);"
)]
#[case::python(
    "python",
    factory(
        "['stock.keep($ID, lambda $P: $TYPE($$$MAKER))']",
        "'$S.take($NEEDED)'",
        "'$S.tryTake($NEEDED)'",
        "'stock.keep($ID, $ELSEWHERE)'"
    ),
    "class Gate: pass
stock.keep('gate', lambda s: Gate(s.take('lock'), s.tryTake('bell'), other.take('horn')))
stock.take('beside')
stock.keep('lamp', make_lamp)
"
)]
fn a_factory_in_the_call(#[case] language: &str, #[case] takes: String, #[case] code: &str) {
    let found = said(language, &takes, code);
    let gate = match language {
        "php" => r"v\Gate",
        "typescript" => "depot/Setup#Gate",
        "python" => "depot.Setup.Gate",
        _ => "v.Gate",
    };
    let [service, lock, bell, unseen] = found.as_slice() else { panic!("{found:#?}") };
    assert_eq!(*service, format!("service gate, type {gate}"));
    assert_eq!([lock, bell], ["  needs service lock", "  needs service bell, optional"]);
    assert!(unseen.starts_with("unseen ") && unseen.contains("lamp"), "{unseen}");
}

/// Functions that register, and the one that calls them: each is a provider, and the calls are the roster.
const SPREAD: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERNS }
id = "$.ID"
provider = "$['@method']"
[[reader.take]]
what = "provider"
each = "$.functions[?@.name != 'start']"
id = "$.name"
[[reader.take]]
what = "roster"
each = { code = CALLS }
within = { method = "start" }
provider = "$.NAME"
"#;

#[rstest]
#[case::java(
    "java",
    "'stock.keep($ID)'",
    "'$NAME(stock)'",
    "class S {
    static void start(Stock stock) { addDepot(stock); addSignals(stock); }
    static void addDepot(Stock stock) { stock.keep(\"gate\"); stock.keep(\"lamp\"); }
    static void addSignals(Stock stock) { stock.keep(\"signal\"); }
    static void addCrew(Stock stock) { stock.keep(\"roster\"); log(stock); }
}"
)]
#[case::kotlin(
    "kotlin",
    "'stock.keep($ID)'",
    "'$NAME(stock)'",
    "
    fun start(stock: Stock) { addDepot(stock); addSignals(stock) }
    fun addDepot(stock: Stock) { stock.keep(\"gate\"); stock.keep(\"lamp\") }
    fun addSignals(stock: Stock) { stock.keep(\"signal\") }
    fun addCrew(stock: Stock) { stock.keep(\"roster\"); log(stock) }"
)]
#[case::csharp(
    "csharp",
    "'stock.keep($ID)'",
    "'stock.$NAME()'",
    "static class S {
    static void start(Stock stock) { stock.addDepot(); stock.addSignals(); }
    static void addDepot(this Stock stock) { stock.keep(\"gate\"); stock.keep(\"lamp\"); }
    static void addSignals(this Stock stock) { stock.keep(\"signal\"); }
    static void addCrew(this Stock stock) { stock.keep(\"roster\"); stock.log(); }
}"
)]
#[case::php(
    "php",
    "'$stock->keep($ID)'",
    "'$NAME($stock)'",
    "<?php
    function start($stock) { addDepot($stock); addSignals($stock); }
    function addDepot($stock) { $stock->keep('gate'); $stock->keep('lamp'); }
    function addSignals($stock) { $stock->keep('signal'); }
    function addCrew($stock) { $stock->keep('roster'); log($stock); }"
)]
#[case::typescript(
    "typescript",
    "'stock.keep($ID)'",
    "'$NAME(stock)'",
    "
    function start(stock: Stock) { addDepot(stock); addSignals(stock); }
    const addDepot = (stock: Stock) => { stock.keep('gate'); stock.keep('lamp'); };
    function addSignals(stock: Stock) { stock.keep('signal'); }
    function addCrew(stock: Stock) { stock.keep('roster'); log(stock); }"
)]
#[case::python(
    "python",
    "'stock.keep($ID)'",
    "'$NAME(stock)'",
    "
def start(stock):
    addDepot(stock)
    addSignals(stock)
def addDepot(stock):
    stock.keep('gate')
    stock.keep('lamp')
def addSignals(stock):
    stock.keep('signal')
def addCrew(stock):
    stock.keep('roster')
    log(stock)
"
)]
fn registrations_spread_over_functions(
    #[case] language: &str,
    #[case] patterns: &str,
    #[case] calls: &str,
    #[case] code: &str,
) {
    let found = said(language, &SPREAD.replace("PATTERNS", patterns).replace("CALLS", calls), code);
    let found: Vec<&str> =
        found.iter().map(String::as_str).filter(|line| !line.starts_with("service")).collect();
    assert_eq!(
        found,
        [
            "provider addDepot, registers gate + lamp",
            "provider addSignals, registers signal",
            "provider addCrew, registers roster",
            "roster, of addDepot + addSignals",
        ]
    );
}

/// Classes with a registering and a starting method. What own methods do happens where they are called; what other methods do is of
/// neither phase.
const PHASES: &str = r#"
[[reader.take]]
what = "service"
each = { code = KEEP }
within = { method = "register", class-extends = "Provider" }
id = "$.ID"
provider = "$['@class']"
[[reader.take]]
what = "provider"
each = "$.types[*]"
within = { class-extends = "Provider" }
id = "$.name"
[[reader.take.register]]
code = TAKE
within = { method = "register" }
service = "$.NEEDED"
slot = "$.NEEDED"
[[reader.take.start]]
code = TAKE
within = { method = "start" }
service = "$.NEEDED"
slot = "$.NEEDED"
"#;

#[rstest]
#[case::java("java", "'stock.keep($ID)'", "'stock.take($NEEDED)'", "package v; class DepotProvider extends Provider {
    void register(Stock stock) { stock.keep(\"gate\"); stock.take(\"clock\"); lamps(stock); stock.keep(\"bell\"); }
    void start(Stock stock) { stock.take(\"bell\"); }
    void never(Stock stock) { stock.keep(\"never\"); stock.take(\"never\"); }
    private void lamps(Stock stock) { stock.keep(\"lamp\"); stock.take(\"bell\"); }
} class Other { void register(Stock stock) { stock.keep(\"other\"); } }")]
#[case::kotlin("kotlin", "'stock.keep($ID)'", "'stock.take($NEEDED)'", "package v
class DepotProvider : Provider() {
    fun register(stock: Stock) { stock.keep(\"gate\"); stock.take(\"clock\"); lamps(stock); stock.keep(\"bell\") }
    fun start(stock: Stock) { stock.take(\"bell\") }
    fun never(stock: Stock) { stock.keep(\"never\"); stock.take(\"never\") }
    private fun lamps(stock: Stock) { stock.keep(\"lamp\"); stock.take(\"bell\") }
}
class Other { fun register(stock: Stock) { stock.keep(\"other\") } }")]
#[case::csharp("csharp", "'stock.keep($ID)'", "'stock.take($NEEDED)'", "namespace v { class DepotProvider : Provider {
    void register(Stock stock) { stock.keep(\"gate\"); stock.take(\"clock\"); lamps(stock); stock.keep(\"bell\"); }
    void start(Stock stock) { stock.take(\"bell\"); }
    void never(Stock stock) { stock.keep(\"never\"); stock.take(\"never\"); }
    void lamps(Stock stock) { stock.keep(\"lamp\"); stock.take(\"bell\"); }
} class Other { void register(Stock stock) { stock.keep(\"other\"); } } }")]
#[case::php("php", "'$stock->keep($ID)'", "'$stock->take($NEEDED)'", "<?php namespace v; class DepotProvider extends Provider {
    function register($stock) { $stock->keep('gate'); $stock->take('clock'); $this->lamps($stock); $stock->keep('bell'); }
    function start($stock) { $stock->take('bell'); }
    function never($stock) { $stock->keep('never'); $stock->take('never'); }
    private function lamps($stock) { $stock->keep('lamp'); $stock->take('bell'); }
} class Other { function register($stock) { $stock->keep('other'); } }")]
#[case::typescript(
    "typescript",
    "'stock.keep($ID)'",
    "'stock.take($NEEDED)'",
    "export class DepotProvider extends Provider {
    register(stock: Stock) { stock.keep('gate'); stock.take('clock'); this.lamps(stock); stock.keep('bell'); }
    start(stock: Stock) { stock.take('bell'); }
    never(stock: Stock) { stock.keep('never'); stock.take('never'); }
    private lamps(stock: Stock) { stock.keep('lamp'); stock.take('bell'); }
} export class Other { register(stock: Stock) { stock.keep('other'); } }"
)]
#[case::python(
    "python",
    "'stock.keep($ID)'",
    "'stock.take($NEEDED)'",
    "
class DepotProvider(Provider):
    def register(self, stock):
        stock.keep('gate')
        stock.take('clock')
        self.lamps(stock)
        stock.keep('bell')
    def start(self, stock):
        stock.take('bell')
    def never(self, stock):
        stock.keep('never')
        stock.take('never')
    def lamps(self, stock):
        stock.keep('lamp')
        stock.take('bell')
class Other:
    def register(self, stock):
        stock.keep('other')
"
)]
fn providers_with_two_phases(
    #[case] language: &str,
    #[case] keep: &str,
    #[case] take: &str,
    #[case] code: &str,
) {
    let found = said(language, &PHASES.replace("KEEP", keep).replace("TAKE", take), code);
    let services: Vec<&str> = found.iter().filter_map(|line| line.strip_prefix("service ")).collect();
    let id = match language {
        "php" => r"v\DepotProvider",
        "typescript" => "depot/Setup#DepotProvider",
        "python" => "depot.Setup.DepotProvider",
        _ => "v.DepotProvider",
    };
    let rest: Vec<&str> =
        found.iter().map(String::as_str).filter(|line| !line.starts_with("service ")).collect();
    assert_eq!(services, ["gate", "bell", "lamp"]);
    assert_eq!(
        rest,
        [
            &format!("provider {id}, registers gate + lamp + bell"),
            "  register needs service clock, after 1",
            "  register needs service bell, after 2",
            "  start needs service bell",
        ]
    );
}

/// Look-ups by a literal and by a type, on what is restricted by text; by a computed name they are not seen. What is looked up in a
/// loop is looked up again.
const LOOK_UPS: &str = r#"
[[reader.take]]
what = "lookup"
each = { code = NAMED }
id = { any = ["$['@class']", "$['@method']"] }
[[reader.take.need]]
service = "$.ID"
[[reader.take]]
what = "lookup"
each = { code = TYPED }
id = { any = ["$['@class']", "$['@method']"] }
[[reader.take.need]]
contract = { from = "$.CONTRACT", full = true }
"#;

#[rstest]
#[case::java("java", "'stock.take($ID)'", "'stock.get($CONTRACT.class)'", "package v; class Board {
    void show() { stock.take(\"lamp\"); stock.get(Clock.class); map.take(\"none\"); list.get(Clock.class); stock.take(\"a\" + name);
        for (String one : stock.take(\"lines\")) { stock.take(\"bell\"); } while (true) { stock.get(Horn.class); } }
} interface Clock {} interface Horn {}")]
#[case::kotlin("kotlin", "'stock.take($ID)'", "'stock.get<$CONTRACT>()'", "package v
class Board {
    fun show() { stock.take(\"lamp\"); stock.get<Clock>(); map.take(\"none\"); list.get<Clock>(); stock.take(\"a\" + name)
        for (one in stock.take(\"lines\")) { stock.take(\"bell\") }
        while (true) { stock.get<Horn>() } }
}
interface Clock
interface Horn")]
#[case::csharp("csharp", "'stock.take($ID)'", "'stock.get<$CONTRACT>()'", "namespace v { class Board {
    void show() { stock.take(\"lamp\"); stock.get<Clock>(); map.take(\"none\"); list.get<Clock>(); stock.take(\"a\" + name);
        foreach (var one in stock.take(\"lines\")) { stock.take(\"bell\"); } while (true) { stock.get<Horn>(); } }
} interface Clock {} interface Horn {} }")]
#[case::php("php", "'$stock->take($ID)'", "'$stock->get($CONTRACT::class)'", "<?php namespace v; class Board {
    function show($stock) { $stock->take('lamp'); $stock->get(Clock::class); $map->take('none'); $list->get(Clock::class); $stock->take('a' . $name);
        foreach ($stock->take('lines') as $one) { $stock->take('bell'); } while (true) { $stock->get(Horn::class); } }
} interface Clock {} interface Horn {}")]
#[case::typescript("typescript", "'stock.take($ID)'", "'stock.get<$CONTRACT>()'", "export class Board {
    show() { stock.take('lamp'); stock.get<Clock>(); map.take('none'); list.get<Clock>(); stock.take('a' + name);
        for (const one of stock.take('lines')) { stock.take('bell'); } while (true) { stock.get<Horn>(); } }
} export interface Clock {} export interface Horn {}")]
#[case::python(
    "python",
    "'stock.take($ID)'",
    "'stock.get($CONTRACT)'",
    "
class Board:
    def show(self):
        stock.take('lamp')
        stock.get(Clock)
        map.take('none')
        list.get(Clock)
        stock.take('a' + name)
        for one in stock.take('lines'):
            stock.take('bell')
        while True:
            stock.get(Horn)
class Clock: pass
class Horn: pass
"
)]
fn look_ups(#[case] language: &str, #[case] named: &str, #[case] typed: &str, #[case] code: &str) {
    let found = said(language, &LOOK_UPS.replace("NAMED", named).replace("TYPED", typed), code);
    let name = |short: &str| match language {
        "php" => format!(r"v\{short}"),
        "typescript" => format!("depot/Setup#{short}"),
        "python" => format!("depot.Setup.{short}"),
        _ => format!("v.{short}"),
    };
    let needs: Vec<&str> = found.iter().filter_map(|line| line.strip_prefix("  needs ")).collect();
    let (clock, horn) = (name("Clock"), format!("{}, repeated", name("Horn")));
    assert_eq!(needs, ["service lamp", "service lines", "service bell, repeated", &clock, &horn]);
    let by = format!("look-up by {}", name("Board"));
    assert!(found.iter().filter(|line| line.starts_with("look-up")).all(|line| *line == by), "{found:#?}");
    let unseen: Vec<&String> = found.iter().filter(|line| line.starts_with("unseen")).collect();
    assert!(matches!(unseen.as_slice(), [one] if one.contains("name")), "{unseen:?}");
}

/// A class or function that stands for a service by name is another name of it; each use of it is a look-up by who uses it. What only
/// looks like one is none.
const ACCESSORS: &str = r#"
[[reader.take]]
what = "service"
each = { code = DECLARED }
id = "$.NAME"
alias-of = "$.ID"
[[reader.take]]
what = "lookup"
each = { code = USED }
id = { any = ["$['@class']", "$['@method']"] }
[[reader.take.need]]
service = { from = "$.NAME", match = '^The\w+$' }
"#;

#[rstest]
#[case::java(
    "java",
    "'class $NAME extends Stand { static final String FOR = $ID; }'",
    "'$NAME.now()'",
    "class TheMeter extends Stand { static final String FOR = \"meter\"; }
     class Other { static final String FOR = \"none\"; }
     class Board { void show() { TheMeter.now().read(); clock.now(); TheMeter.later(); } }"
)]
#[case::kotlin(
    "kotlin",
    "'object $NAME : Stand($ID)'",
    "'$NAME.now()'",
    "object TheMeter : Stand(\"meter\")
     object Other : Thing(\"none\")
     class Board { fun show() { TheMeter.now().read(); clock.now(); TheMeter.later() } }"
)]
#[case::csharp(
    "csharp",
    "'class $NAME : Stand { const string For = $ID; }'",
    "'$NAME.now()'",
    "class TheMeter : Stand { const string For = \"meter\"; }
     class Other { const string For = \"none\"; }
     class Board { void show() { TheMeter.now().read(); clock.now(); TheMeter.later(); } }"
)]
#[case::php(
    "php",
    "'class $NAME extends Stand { const FOR = $ID; }'",
    "'$NAME::now()'",
    "<?php class TheMeter extends Stand { const FOR = 'meter'; }
     class Other { const FOR = 'none'; }
     class Board { function show() { TheMeter::now()->read(); Clock::now(); TheMeter::later(); } }"
)]
#[case::typescript(
    "typescript",
    "'const $NAME = standFor($ID)'",
    "'$NAME.now()'",
    "export const TheMeter = standFor('meter');
     const other = thing('none');
     class Board { show() { TheMeter.now().read(); clock.now(); TheMeter.later(); } }"
)]
#[case::python(
    "python",
    "'$NAME = stand_for($ID)'",
    "'$NAME.now()'",
    "TheMeter = stand_for('meter')
other = thing('none')
class Board:
    def show(self):
        TheMeter.now().read()
        clock.now()
        TheMeter.later()
"
)]
fn accessors(#[case] language: &str, #[case] declared: &str, #[case] used: &str, #[case] code: &str) {
    let found = said(language, &ACCESSORS.replace("DECLARED", declared).replace("USED", used), code);
    let by = match language {
        "typescript" => "depot/Setup#Board",
        "python" => "depot.Setup.Board",
        _ => "Board",
    };
    assert_eq!(
        found,
        ["service TheMeter, alias of meter", &format!("look-up by {by}"), "  needs service TheMeter"]
    );
}

/// What a registration gives its constructor: by name and by place.
const GIVEN: &str = r#"
[[reader.take]]
what = "service"
each = { code = PATTERN }
id = "$.ID"
[[reader.take.need]]
each = "$.GIVEN[*].*"
value = "$"
[[reader.value]]
match = '^part:(?<service>\w+)$'
"#;

#[rstest]
#[case::kotlin(
    "kotlin",
    "'stock.keep($ID, $$$GIVEN)'",
    "fun f() { stock.keep(\"gate\", lock = \"part:lock\", bell = \"loud\") }"
)]
#[case::csharp(
    "csharp",
    "'stock.keep($ID, $$$GIVEN)'",
    "class S { void f() { stock.keep(\"gate\", @lock: \"part:lock\", bell: \"loud\"); } }"
)]
#[case::php(
    "php",
    "'$stock->keep($ID, $$$GIVEN)'",
    "<?php $stock->keep('gate', lock: 'part:lock', bell: 'loud');"
)]
#[case::typescript(
    "typescript",
    "'stock.keep($ID, $$$GIVEN)'",
    "stock.keep('gate', { lock: 'part:lock', bell: 'loud' });"
)]
#[case::python(
    "python",
    "'stock.keep($ID, $$$GIVEN)'",
    "stock.keep('gate', lock='part:lock', bell='loud')\n"
)]
fn explicit_arguments(#[case] language: &str, #[case] pattern: &str, #[case] code: &str) {
    let found = said(language, &GIVEN.replace("PATTERN", pattern), code);
    assert_eq!(found, ["service gate", "  needs service lock"]);
}

/// What one place says in several forms is said once, and a pattern that is written in one form finds no other.
#[rstest]
#[case::new_lines_and_comments(
    "stock /* the one */\n    .keep(\n        // this\n        'gate',\n    );",
    true
)]
#[case::double_quotes("stock.keep(\"gate\");", true)]
#[case::one_more_argument("stock.keep('gate', 1);", false)]
#[case::another_name("stock.keepAll('gate');", false)]
#[case::another_receiver("this.stock.keep('gate');", false)]
#[case::not_called("const keep = stock.keep;", false)]
#[case::in_a_comment("// stock.keep('gate');", false)]
#[case::in_a_text("log(\"stock.keep('gate')\");", false)]
fn what_a_pattern_is(#[case] code: &str, #[case] is_found: bool) {
    let takes = "[[reader.take]]\nwhat = 'service'\neach = { code = 'stock.keep($ID)' }\nid = '$.ID'\n";
    // A pattern that is nowhere is a finding.
    let files = [("depot/a.ts", code), ("depot/b.ts", "stock.keep('other');")];
    let found = said_of("typescript", takes, &files);
    assert_eq!(found.contains(&"service gate".to_owned()), is_found, "{found:?}");
}

/// Markup in a script is a grammar of its own; patterns are the same.
#[test]
fn scripts_with_markup() {
    let takes = "[[reader.take]]\nwhat = 'service'\neach = { code = 'stock.keep($ID)' }\nid = '$.ID'\n";
    let files = [
        ("depot/Page.tsx", "export const Page = () => <Board lamp={stock.keep('lamp')}>text</Board>;"),
        ("depot/plain.ts", "const board = <Board>stock.keep('bell');"),
    ];
    assert_eq!(said_of("typescript", takes, &files), ["service lamp", "service bell"]);
}

/// A factory's own parameter is its own with its type too.
#[rstest]
#[case::java(
    "java",
    "'stock.keep($ID, (Stock $P) -> $MAKER)'",
    "class S { void f() { stock.keep(\"gate\", (Stock s) -> make(s.take(\"lock\"), other.take(\"horn\"))); } }"
)]
#[case::csharp(
    "csharp",
    "'stock.keep($ID, ($P) => $MAKER)'",
    "class S { void f() { stock.keep(\"gate\", (Stock s) => make(s.take(\"lock\"), other.take(\"horn\"))); } }"
)]
#[case::typescript(
    "typescript",
    "'stock.keep($ID, ($P) => $MAKER)'",
    "stock.keep('gate', (s: Stock) => make(s.take('lock'), other.take('horn')));"
)]
#[case::kotlin(
    "kotlin",
    "'stock.keep($ID) { $P -> $MAKER }'",
    "fun f() { stock.keep(\"gate\") { s: Stock -> make(s.take(\"lock\"), other.take(\"horn\")) } }"
)]
#[case::php(
    "php",
    "'$stock->keep($ID, fn($P) => $MAKER)'",
    "<?php $stock->keep('gate', fn(Stock $s) => make($s->take('lock'), $other->take('horn')));"
)]
fn a_parameter_with_its_type(#[case] language: &str, #[case] pattern: &str, #[case] code: &str) {
    let take = if language == "php" { "$S->take($N)" } else { "$S.take($N)" };
    let takes = format!(
        "[[reader.take]]\nwhat = 'service'\neach = {{ code = {pattern} }}\nid = '$.ID'\n\
         [[reader.take.need]]\ninside = '$.MAKER'\ncode = '{take}'\nsame = {{ S = '$.P' }}\nservice = '$.N'\n"
    );
    assert_eq!(said(language, &takes, code), ["service gate", "  needs service lock"]);
}
