use crate::said::said;
use rstest::rstest;

/// Classes found by a mark and by a base type, and methods that make services: what they need are the parameters of their
/// constructors and their own. What carries no mark, or another, is none.
const DECLARED: &str = r#"
[[reader.take]]
what = "service"
each = "$.types[*]"
marked = "Part"
id = { any = ["$.marks[?@.name == 'Part'].args[0]", { from = "$.short", case = "first-lower" }] }
type = { from = "$.name", last-part = true }
[[reader.take.need]]
each = "$.constructor[*]"
slot = "$.name"
contract = { from = "$.contract", last-part = true }
all = { from = "$.all", last-part = true }
optional = "$.optional"
[[reader.take]]
what = "service"
each = "$.types[*]"
within = { class-extends = "Door" }
id = { from = "$.short", case = "first-lower" }
offers = { from = "$.supers", last-part = true }
[[reader.take]]
what = "service"
each = "$.types[*].methods[*]"
marked = "Makes"
id = "$.name"
offers = { from = "$.returns", last-part = true }
[[reader.take.need]]
each = "$.parameters[*]"
slot = "$.name"
contract = { from = "$.contract", last-part = true }
"#;

#[rstest]
#[case::java(
    "java",
    "import java.util.List; import java.util.Optional;
    @Part(\"gate\") class Gate { Gate(Lock lock, Optional<Horn> horn, List<Bell> bells) {} }
    @Part class NightLamp {}
    @Other class None {}
    class Wicket extends Door {}
    class Shop { @Makes Clock clock(Lock lock) { return null; } Clock other(Horn horn) { return null; } }"
)]
#[case::kotlin(
    "kotlin",
    "@Part(\"gate\") class Gate(lock: Lock, horn: Horn?, bells: List<Bell>)
    @Part class NightLamp
    @Other class None
    class Wicket : Door()
    class Shop { @Makes fun clock(lock: Lock): Clock = make() \n fun other(horn: Horn): Clock = make() }"
)]
#[case::csharp(
    "csharp",
    "using System.Collections.Generic;
    [Part(\"gate\")] class Gate { public Gate(Lock @lock, Horn? horn, IEnumerable<Bell> bells) {} }
    [Part] class NightLamp {}
    [Other] class None {}
    class Wicket : Door {}
    class Shop { [Makes] public Clock clock(Lock @lock) { return null; } public Clock other(Horn horn) { return null; } }"
)]
#[case::php(
    "php",
    "<?php
    #[Part('gate')] class Gate { function __construct(Lock $lock, ?Horn $horn, Bell ...$bells) {} }
    #[Part] class NightLamp {}
    #[Other] class None {}
    class Wicket extends Door {}
    class Shop { #[Makes] function clock(Lock $lock): Clock { } function other(Horn $horn): Clock { } }"
)]
#[case::typescript(
    "typescript",
    "@Part('gate') export class Gate { constructor(lock: Lock, horn: Horn | undefined, bells: Bell[]) {} }
    @Part() export class NightLamp {}
    @Other() export class None {}
    export class Wicket extends Door {}
    export class Shop { @Makes() clock(lock: Lock): Clock { } other(horn: Horn): Clock { } }"
)]
#[case::python(
    "python",
    "
@Part('gate')
class Gate:
    def __init__(self, lock: Lock, horn: Horn | None, bells: list[Bell]): pass
@Part
class NightLamp: pass
@Other
class None_: pass
class Wicket(Door): pass
class Shop:
    @Makes
    def clock(self, lock: Lock) -> Clock: pass
    def other(self, horn: Horn) -> Clock: pass
"
)]
fn classes_by_mark_and_base_and_methods_that_make(#[case] language: &str, #[case] code: &str) {
    assert_eq!(
        said(language, DECLARED, code),
        [
            "service gate, type Gate",
            "  needs Lock",
            "  needs Horn, optional",
            "  needs all Bell",
            "service nightLamp, type NightLamp",
            "service wicket, offers Door",
            "service clock, offers Clock",
            "  needs Lock",
        ]
    );
}
