//! Wiring by type: constructors filled by the types of their parameters, and types offered by what is one of them.

use corvant_core::answers::show::{Said, show};
use corvant_core::answers::terms::Reason;
use corvant_core::answers::{View, look_up};
use corvant_core::audit::{Options, audit};
use corvant_core::finding::BlindSpotKind;
use corvant_read::workspace;
use corvant_testing::{expect, messages};
use rstest::rstest;

fn found(text: &str) -> Vec<String> {
    messages(text).iter().map(|found| format!("{} {}", found.rule, found.subject)).collect()
}

/// A workspace in which a gate is wired by its constructor, and lamps offer what they are.
fn depot(file: &str, code: &str, scope: &str) -> String {
    format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/**\"]\n//- {file}\n{code}\n\
         //- depot.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  \
         gate: {{ type: '{scope}Gate', wire: constructor }}\n  \
         red: {{ type: '{scope}RedLamp', offers: [super-types] }}\n  \
         blue: {{ type: '{scope}BlueLamp', offers: [super-types] }}\n  \
         yard: {{ type: '{scope}Yard' }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }} }} }} }}\n"
    )
}

/// In each language the gate takes all lamps, a yard by its own type, a clock that nobody has, a horn that may be absent,
/// and a number.
#[rstest]
#[case::java(
    "src/Gate.java",
    "package v; import java.util.*; interface Lamp {} interface Clock {} interface Horn {}
     class RedLamp implements Lamp {} class BlueLamp extends RedLamp {} class Yard {}
     class Gate { Gate(List<? extends Lamp> lamps, Yard yard, Clock clock, Optional<Horn> horn, int number) {} }",
    "v."
)]
#[case::kotlin(
    "src/Gate.kt",
    "package v\ninterface Lamp\ninterface Clock\ninterface Horn\nopen class RedLamp : Lamp\nclass BlueLamp : RedLamp()\nclass Yard
     class Gate(val lamps: List<Lamp>, private val yard: Yard, clock: Clock, horn: Horn? = null, number: Int)",
    "v."
)]
#[case::c_sharp(
    "src/Gate.cs",
    "namespace V; interface Lamp {} interface Clock {} interface Horn {} class RedLamp : Lamp {} class BlueLamp : RedLamp {} class Yard {}
     class Gate { public Gate(IEnumerable<Lamp> lamps, Yard yard, Clock clock, Horn? horn, int number = 1) {} }",
    "V."
)]
#[case::php(
    "src/gate.php",
    "<?php namespace V; interface Lamp {} interface Clock {} interface Horn {} class RedLamp implements Lamp {} class BlueLamp extends RedLamp {}
     class Yard {} class Base { function __construct(Yard $yard, \\V\\Clock $clock, ?Horn $horn, int $number, Lamp ...$lamps) {} } class Gate extends Base {}",
    "V\\"
)]
#[case::type_script(
    "src/depot/gate.ts",
    "export interface Lamp {} interface Clock {} interface Horn {} class RedLamp implements Lamp {} class BlueLamp extends RedLamp {}
     class Yard {} export class Gate { constructor(private lamps: Lamp[], readonly yard: Yard, clock: Clock, horn?: Horn, number = 1) {} }",
    "src/depot/gate#"
)]
#[case::python(
    "src/v/gate.py",
    "class Lamp: pass\nclass Clock: pass\nclass Horn: pass\nclass RedLamp(Lamp): pass\nclass BlueLamp(RedLamp): pass\nclass Yard: pass\nclass Gate:\n    def __init__(self, lamps: list[Lamp], yard: 'Yard', clock: Clock, horn: Horn | None, number: int = 1):\n        pass\n",
    "v.gate."
)]
fn what_a_constructor_takes_is_needed(#[case] file: &str, #[case] code: &str, #[case] scope: &str) {
    let all = found(&depot(file, code, scope));
    assert_eq!(all, [format!("missing-implementation {scope}Clock")]);
}

#[test]
fn places_are_those_of_parameters() {
    expect(
        r#"
//- corvant.toml
policy.wire = "constructor"
policy.offers = "super-types"
[[types]]
files = ["src/**"]
module = { path = "src/(?<module>[^/]+)/" }
//- a.wiring.yaml
corvant: 1
module: depot
services:
  gate: { type: velmora.depot.Gate }
  plain: { type: velmora.depot.Plain, wire: none }
entries: { open: { needs: { gate: { service: gate }, plain: { service: plain } } } }
//- src/depot/Gate.java
package velmora.depot;
import velmora.kit.Clock;
class Gate { Gate(Clock clock) {} }
                  ^^^^^ missing-implementation velmora.kit.Clock
class Plain { Plain(Clock clock) {} }
//- src/kit/Clock.java
package velmora.kit;
public interface Clock {}
"#,
    );
}

/// Needs that are written win over types, by name and by number; a model's count too.
#[rstest]
#[case::by_name("{ type: v.Gate, wire: constructor, needs: { clock: { service: tower } } }", &[])]
#[case::by_number("{ type: v.Gate, wire: constructor, needs: { '0': { service: tower } } }", &[])]
#[case::by_number_from_one("{ type: v.Gate, wire: constructor, needs: { '1': { service: tower }, '2': { service: yard } } }", &[])]
#[case::by_a_number_that_may_be_either("{ type: v.Gate, wire: constructor, needs: { '1': { service: tower } } }", &[])]
#[case::of_a_model("{ like: model }", &[])]
#[case::of_another("{ type: v.Gate, wire: constructor, needs: { yard: { service: tower } } }", &["missing-implementation v.Clock"])]
#[case::switched_off("{ like: model, wire: none, needs: { yard: { service: tower } } }", &[])]
fn needs_that_are_written_win(#[case] gate: &str, #[case] expected: &[&str]) {
    let text = format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"*.java\"]\n//- Gate.java\npackage v; interface Clock {{}} class Yard {{}} class Tower extends Yard implements Clock {{}}\nclass Gate {{ Gate(Clock clock, Yard yard) {{}} }}\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  tower: {{ type: v.Tower }}\n  yard: {{ type: v.Yard }}\n  \
         model: {{ template: true, type: v.Gate, wire: constructor, needs: {{ clock: {{ service: tower }} }} }}\n  gate: {gate}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }}, yard: {{ service: yard }}, tower: {{ service: tower }} }} }} }}\n"
    );
    let found: Vec<String> = found(&text).into_iter().filter(|found| !found.starts_with("unused")).collect();
    assert_eq!(found, expected);
}

/// Of several constructors the marked one is meant, else the longest that can be filled.
#[rstest]
#[case::the_marked("@v.Built Gate(Clock clock) {} Gate() {}", &["missing-implementation v.Clock"])]
#[case::the_longest_that_can_be_filled("Gate(Clock clock) {} Gate() {} Gate(Yard yard) {}", &[])]
#[case::private_ones_are_for_others("private Gate(Clock clock) {} Gate() {}", &[])]
#[case::the_only_one("private Gate(Clock clock) {}", &["missing-implementation v.Clock"])]
#[case::none("", &[])]
fn a_constructor_is_chosen(#[case] constructors: &str, #[case] expected: &[&str]) {
    let text = format!(
        "//- corvant.toml\nwire.mark = [{{ name = 'v.Built', gives = 'constructor' }}]\n[[types]]\nfiles = [\"*.java\"]\n//- Gate.java\npackage v; interface Clock {{}} class Yard {{}}\nclass Gate {{ {constructors} }}\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  yard: {{ type: v.Yard }}\n  gate: {{ type: v.Gate, wire: constructor }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }}, yard: {{ service: yard }} }} }} }}\n"
    );
    assert_eq!(found(&text), expected);
}

/// What types and marks of the house stand for is said in the workspace file.
#[test]
fn types_and_marks_of_the_house_have_meanings() {
    expect(
        r#"
//- corvant.toml
[wire]
as = [
  { type = "v.kit.Every", means = "all" },
  { type = "v.kit.Later", means = "lazy" },
  { type = "v.kit.Perhaps", means = "optional" },
  { type = "v.kit.Number", means = "plain" },
]
mark = [
  { name = "v.kit.Under", gives = "key" },
  { name = "v.kit.Limit", gives = "setting" },
  { name = "v.kit.Maybe", gives = "optional" },
]
[[types]]
files = ["*.java"]
//- kit.java
package v.kit;
class Every<T> {} class Later<T> {} class Perhaps<T> {} class Number {}
@interface Under { String value(); } @interface Limit { String value(); } @interface Maybe {}
class Keys { static final String NIGHT = "night"; }
//- gate.java
package v;
import v.kit.*;
interface Lamp {}
class Red implements Lamp {}
class Yard { Yard(Later<Gate> gate) {} }
class Gate {
    Gate(Every<Lamp> lamps, Yard yard, Perhaps<Horn> horn, Number number, @Maybe Horn other,
         @Under(Keys.NIGHT) Lamp night, @Under("day") Lamp day, @Limit("gate.limit") int limit) {}
}
interface Horn {}
//- a.wiring.yaml
corvant: 1
module: depot
services:
  yard: { type: v.Yard, wire: constructor }  # its gate is resolved later, so that the cycle is a note
  gate: { type: v.Gate, wire: constructor }
                ^^^^^^ missing-key v.Lamp#day
                ^^^^^^ missing-setting gate.limit
                ^^^^^^ service-cycle gate > yard
  night: { type: v.Red, offers: [super-types], key: night }
entries: { open: { needs: { gate: { service: gate } } } }
"#,
    );
}

/// What nobody can know, and what nothing gives, is not told.
#[rstest]
#[case::a_type_that_no_code_declares("class Gate { Gate(far.away.Clock clock) {} }", &[])]
#[case::a_super_type_that_no_code_declares("class Gate extends far.away.Door {}", &[])]
#[case::values_of_an_enumeration("enum Side { LEFT } class Gate { Gate(Side side) {} }", &[])]
#[case::a_parameter_of_any_type("class Gate<T> { Gate(T any, java.util.Map<String, Lamp> lamps) {} }", &[])]
fn what_nothing_gives_is_silent(#[case] code: &str, #[case] expected: &[&str]) {
    let text = format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"*.java\"]\n//- Gate.java\npackage v; interface Lamp {{}} {code}\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  gate: {{ type: v.Gate, wire: constructor, offers: [super-types] }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }} }} }} }}\n"
    );
    assert_eq!(found(&text), expected);
}

/// Names stand for what imports, scopes, aliases and what is handed on say.
#[rstest]
#[case::own_package(
    "a/Gate.java",
    "package a; class Gate { Gate(Clock clock) {} }",
    "a/Clock.java",
    "package a; interface Clock {}",
    "a.Gate",
    "a.Clock"
)]
#[case::import(
    "a/Gate.java",
    "package a; import b.Clock; class Gate { Gate(Clock clock) {} }",
    "b/Clock.java",
    "package b; interface Clock {}",
    "a.Gate",
    "b.Clock"
)]
#[case::all_of_a_package(
    "a/Gate.java",
    "package a; import b.*; class Gate { Gate(Clock clock) {} }",
    "b/Clock.java",
    "package b; interface Clock {}",
    "a.Gate",
    "b.Clock"
)]
#[case::nested(
    "a/Gate.java",
    "package a; import b.Kit; class Gate { Gate(Kit.Clock clock) {} }",
    "b/Kit.java",
    "package b; class Kit { interface Clock {} }",
    "a.Gate",
    "b.Kit.Clock"
)]
#[case::renamed(
    "a/Gate.kt",
    "package a\nimport b.Clock as Watch\nclass Gate(watch: Watch)",
    "b/Clock.kt",
    "package b\ninterface Clock",
    "a.Gate",
    "b.Clock"
)]
#[case::alias(
    "a/Gate.kt",
    "package a\ntypealias Watch = b.Clock\nclass Gate(watch: Watch)",
    "b/Clock.kt",
    "package b\ninterface Clock",
    "a.Gate",
    "b.Clock"
)]
#[case::namespaces_around(
    "a/Gate.cs",
    "namespace A.B.C { class Gate { public Gate(D.Clock clock) {} } }",
    "b/Clock.cs",
    "namespace A.D; interface Clock {}",
    "A.B.C.Gate",
    "A.D.Clock"
)]
#[case::for_all_files(
    "a/Gate.cs",
    "namespace A; class Gate(Clock clock);",
    "b/Clock.cs",
    "global using B; namespace B; interface Clock {}",
    "A.Gate",
    "B.Clock"
)]
#[case::of_a_group(
    "a/Gate.php",
    "<?php namespace A; use B\\{Clock as Watch, Yard}; class Gate { function __construct(Watch $w) {} }",
    "b/Clock.php",
    "<?php namespace B; interface Clock {}",
    "A\\Gate",
    "B\\Clock"
)]
#[case::relative(
    "a/Gate.php",
    "<?php namespace A; use B\\Kit; class Gate { function __construct(Kit\\Clock $w) {} }",
    "b/Clock.php",
    "<?php namespace B\\Kit; interface Clock {}",
    "A\\Gate",
    "B\\Kit\\Clock"
)]
#[case::handed_on(
    "a/gate.ts",
    "import { Watch } from '../b'; export class Gate { constructor(w: Watch) {} }",
    "b/index.ts",
    "export interface Clock {}\nexport { Clock as Watch }",
    "a/gate#Gate",
    "b/index#Clock"
)]
#[case::by_default(
    "a/gate.ts",
    "import Watch from '../b/clock.js'; export class Gate { constructor(w: Watch) {} }",
    "b/clock.ts",
    "export default interface Clock {}",
    "a/gate#Gate",
    "b/clock#Clock"
)]
#[case::of_a_module(
    "a/gate.ts",
    "import * as b from '../b/clock'; export class Gate { constructor(w: b.Clock) {} }",
    "b/clock.ts",
    "export interface Clock {}",
    "a/gate#Gate",
    "b/clock#Clock"
)]
#[case::from_a_module(
    "a/gate.py",
    "from b.clock import Clock as Watch\nclass Gate:\n    def __init__(self, w: Watch): pass",
    "b/clock.py",
    "class Clock: pass",
    "a.gate.Gate",
    "b.clock.Clock"
)]
#[case::of_the_package(
    "a/gate.py",
    "from .clock import Clock\nclass Gate:\n    def __init__(self, w: Clock): pass",
    "a/clock.py",
    "class Clock: pass",
    "a.gate.Gate",
    "a.clock.Clock"
)]
#[case::a_module_itself(
    "a/gate.py",
    "import b.clock\nclass Gate:\n    def __init__(self, w: b.clock.Clock): pass",
    "b/clock.py",
    "class Clock: pass",
    "a.gate.Gate",
    "b.clock.Clock"
)]
fn names_stand_for_types(
    #[case] file: &str,
    #[case] code: &str,
    #[case] other: &str,
    #[case] other_code: &str,
    #[case] gate: &str,
    #[case] clock: &str,
) {
    let text = format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"*/*\"]\n//- {file}\n{code}\n//- {other}\n{other_code}\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: depot\nservices: {{ gate: {{ type: '{gate}', wire: constructor }} }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }} }} }} }}\n"
    );
    assert_eq!(found(&text), [format!("missing-implementation {clock}")]);
}

/// Marked classes, classes with a base, methods that make services and handlers are taken from code.
const PARTS: &str = r#"
//- corvant.toml
wire.mark = [{ name = "v.kit.Under", gives = "key" }]
[[types]]
files = ["src/**"]
[[reader]]
name = "parts"
files = ["src/depot/*.java"]
syntax = "types"
module = { path = "src/(?<module>[^/]+)/" }
[[reader.take]]
what = "service"
each = "$.types[?@.kind == 'class']"
marked = "v.kit.Part"
id = { any = ["$.marks[?@.name == 'v.kit.Part'].args[0]", { from = "$.short", case = "camel" }] }
type = "$.name"
offers = "super-types"
key = "$.marks[?@.name == 'v.kit.Under'].args[0]"
wire = "constructor"
[[reader.take.tag]]
name = "lamp"
when-offers = "v.kit.Lamp"
attributes = { at = "$.fields[?@.name == 'AT'].value" }
[[reader.take.need]]
each = "$.fields[?@.marks[?@.name == 'v.kit.Given']]"
slot = "$.name"
contract = "$.contract"
all = "$.all"
optional = "$.optional"
[[reader.take]]
what = "service"
each = "$.types[*].methods[*]"
marked = "v.kit.Made"
id = "$.name"
type = "$.returns"
offers = "$.returns"
[[reader.take.need]]
each = "$.parameters[*]"
slot = "$.name"
contract = "$.contract"
all = "$.all"
optional = "$.optional"
lazy = "$.lazy"
[[reader.take]]
what = "entry"
each = "$.types[*].methods[*]"
marked = "v.kit.Handler"
id = "$.name"
[[reader.take.need]]
each = "$.parameters[*]"
slot = "$.name"
contract = "$.contract"
key = "$.marks[?@.name == 'v.kit.Under'].args[0]"
[[reader.take.need]]
tag = "lamp"
"#;

#[test]
fn code_says_what_there_is() {
    expect(&format!(
        r#"{PARTS}
//- src/kit/Kit.java
package v.kit;
public interface Lamp {{}}
@interface Part {{ String value() default ""; }}
@interface Made {{}} @interface Handler {{}} @interface Given {{}} @interface Under {{ String value(); }}
//- src/depot/Gate.java
package v.depot;
import v.kit.*;
@Part class Gate {{ Gate(Yard yard, Siren siren) {{}} }}
                                   ^^^^^ missing-implementation v.depot.Siren
@Part("the-red-one") @Under("red") class RedLamp implements Lamp {{ static final int AT = 1; }}
interface Siren {{}}
class Yard {{}}
@Part class Signal {{
    @Given Horn horn; @Given java.util.Optional<Horn> other; @Given java.util.List<Lamp> lamps; Horn own;
           ^^^^ missing-implementation v.depot.Horn
}}
interface Horn {{}}
class Handlers {{
    @Handler void see(Signal signal) {{}}
    @Handler void open(Gate gate, @Under("red") Lamp red, @Under("blue") Lamp blue) {{}}
                                                                 ^^^^^^ missing-key v.kit.Lamp#blue
}}
class Makers {{ @Made Yard yard(Fence fence) {{ return null; }} }}
                               ^^^^^ missing-implementation v.depot.Fence
interface Fence {{}}
class More {{
    @Made Shed shed(Lamp... lamps) {{ return null; }}
    @Handler void look(Shed shed) {{}}
}}
class Shed {{}}
"#
    ));
}

/// What could be made a service, or is one that does not offer what it is.
#[test]
fn what_is_of_a_missing_type_is_told() {
    let found = messages(
        "//- corvant.toml\n[[types]]\nfiles = ['*.java']\n//- A.java\npackage v; interface Clock {} abstract class Half implements Clock {} class Quartz extends Half {} class Tower implements Clock {}\n\
         class Gate { Gate(Clock clock) {} }\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: { gate: { type: v.Gate, wire: constructor }, tower: { type: v.Tower } }\n\
         entries: { open: { needs: { gate: { service: gate }, tower: { service: tower } } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    let told =
        "make a service of v.Quartz (A.java:1)\nlet tower offer it: its type v.Tower (A.java:1) is one\n";
    assert!(found[0].text.contains(told), "{found:#?}");
}

/// What a definition takes over from its model it offers all the same, beside what its type says.
#[rstest]
#[case::all_super_types("policy.offers = 'super-types'\n", "like: model, type: v.Red", &[])]
#[case::its_own_type("policy.wire = 'constructor'\n", "like: model, type: v.Red", &["missing-implementation v.Lit"])]
#[case::the_word_for_that("policy.wire = 'constructor'\n", "like: worded, type: v.Red", &["missing-implementation Bright"])]
fn what_a_model_offers_is_offered_too(#[case] policy: &str, #[case] lamp: &str, #[case] expected: &[&str]) {
    let text = format!(
        "//- corvant.toml\n{policy}[[types]]\nfiles = ['*.java']\n//- A.java\npackage v; interface Lit {{}} class Red implements Lit {{}}\n\
         class Gate {{ Gate(Red red, Lit lit) {{}} }}\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  \
         model: {{ template: true, offers: [Bright] }}\n  worded: {{ template: true, offers: [super-types] }}\n  lamp: {{ {lamp} }}\n  \
         gate: {{ type: v.Gate, wire: constructor }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }}, bright: {{ contract: Bright }} }} }} }}\n"
    );
    let found: Vec<String> = found(&text).into_iter().filter(|found| !found.starts_with("unused")).collect();
    assert_eq!(found, expected);
}

/// What is only taken to be there is listed among what was not looked at, until it is said to be supplied.
#[rstest]
#[case::said_of_nobody("", true)]
#[case::supplied("[supplied]\ncontracts = ['far.away.Clock']\n", false)]
#[case::supplied_by_a_pattern("[supplied]\ncontracts = ['far.*']\n", false)]
fn types_that_nobody_declares_are_listed(#[case] supplied: &str, #[case] is_listed: bool) {
    let workspace = workspace::from_texts([
        ("corvant.toml", format!("[[types]]\nfiles = ['*.java']\n{supplied}").as_str()),
        ("Gate.java", "package v; class Gate { Gate(far.away.Clock clock) {} }"),
        (
            "a.wiring.yaml",
            "corvant: 1\nmodule: a\nservices: { gate: { type: v.Gate, wire: constructor } }\n\
             entries: { open: { needs: { gate: { service: gate } } } }\n",
        ),
    ]);
    let (wiring, _) = workspace.unwrap().link();
    let report = audit(&wiring, &Options::default());
    assert!(report.findings.is_empty(), "{:#?}", report.findings);
    let listed = report.blind_spots.iter().filter(|spot| spot.kind == BlindSpotKind::TypesOutside);
    let messages: Vec<&str> = listed.map(|spot| spot.message.as_str()).collect();
    assert_eq!(messages.len(), usize::from(is_listed), "{messages:?}");
    assert!(messages.iter().all(|message| message.contains("far.away.Clock")), "{messages:?}");
    let view = View::new(&wiring, None);
    let gate = look_up(&wiring, "gate", None).unwrap();
    let facts = show(&view, gate, &report).facts;
    let reason = facts.iter().find_map(|fact| match &fact.said {
        Said::Need { gets, .. } => Some(gets.reason.clone()),
        _ => None,
    });
    assert_eq!(reason, Some(if is_listed { Reason::Assumed } else { Reason::Supplied }));
}

/// However a reader comes to the members of types, they are there.
#[rstest]
#[case::by_their_name("$.types[*].methods[*]")]
#[case::wherever_they_are("$..methods[*]")]
#[case::by_whatever_name("$.types[*].*[?@.returns]")]
#[case::in_quotes("$['types'][*]['methods'][*]")]
fn members_are_seen_by_every_path(#[case] each: &str) {
    let workspace = workspace::from_texts([
        (
            "corvant.toml",
            format!(
                "[[reader]]\nname = 'r'\nfiles = ['*.java']\nsyntax = 'types'\nmodule = 'a'\n[[reader.take]]\n\
                 what = 'service'\neach = \"{each}\"\nid = '$.name'\n"
            )
            .as_str(),
        ),
        ("A.java", "class A { Lamp lamp() { return null; } }"),
        ("a.wiring.yaml", "corvant: 1\nmodule: b\nservices: { own: {} }\n"),
    ]);
    let (wiring, _) = workspace.unwrap().link();
    assert!(look_up(&wiring, "lamp", None).is_ok(), "{each}");
}
