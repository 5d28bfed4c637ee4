//! What code registers: under conditions, only where nothing else does, one after another, for one alone, under names that are
//! worked out.

use corvant_testing::{expect, messages};
use rstest::rstest;

/// A workspace whose code registers, and whose entry asks for what `needs` says.
fn workspace(policy: &str, needs: &str, code: &str) -> String {
    format!(
        r#"
//- corvant.toml
{policy}
[[reader]]
name = "stock"
files = ["**/*.ts"]
syntax = "code"
language = "typescript"
module = "depot"
[[reader.take]]
what = "service"
each = {{ code = "stock.keep($ID, $CONTRACT)" }}
id = "$.ID"
offers = "$.CONTRACT"
[[reader.take]]
what = "service"
each = {{ code = "stock.keepUnlessKept($ID, $CONTRACT)" }}
default-unless-offered = true
id = "$.ID"
offers = "$.CONTRACT"
[[reader.take]]
what = "choice"
each = {{ code = "stock.give($SERVICE, $CONTRACT, $HOLDER)" }}
service = "$.SERVICE"
contract = "$.CONTRACT"
for = "$.HOLDER"
//- web.wiring.yaml
corvant: 1
module: web
entries: {{ page: {{ needs: {{ {needs} }} }} }}
//- setup.ts
{code}
"#
    )
}

fn found(policy: &str, needs: &str, code: &str) -> Vec<String> {
    let found = messages(&workspace(policy, needs, code));
    // Not every code has something for each pattern.
    let found = found.iter().filter(|found| found.rule != "wrong-shape");
    found.map(|found| format!("{} {}", found.rule, found.subject)).collect()
}

const ONE: &str = "lamp: { contract: Lamp }";

#[rstest]
#[case::two_without_a_condition_are_a_question(
    "stock.keep('a', 'Lamp'); stock.keep('b', 'Lamp');",
    &["ambiguous-implementation Lamp"]
)]
#[case::a_perhaps_meets_a_need("if (x()) { stock.keep('a', 'Lamp'); }", &[])]
#[case::beside_what_is_certain_it_is_no_question("stock.keep('a', 'Lamp'); if (x()) { stock.keep('b', 'Lamp'); }", &[])]
#[case::two_of_them_are_none_either("if (x()) { stock.keep('a', 'Lamp'); } else { stock.keep('b', 'Lamp'); }", &[])]
#[case::nor_are_two_of_one_id("if (x()) { stock.keep('a', 'Lamp'); } else { stock.keep('a', 'Lamp'); }", &[])]
#[case::what_nobody_asks_for_is_not_unused_for_that("stock.keep('a', 'Lamp'); if (x()) { stock.keep('b', 'Bell'); }", &[])]
#[case::without_a_condition_it_is("stock.keep('a', 'Lamp'); stock.keep('b', 'Bell');", &["unused-service b"])]
#[case::what_yields_gives_way("stock.keepUnlessKept('a', 'Lamp'); stock.keep('b', 'Lamp');", &[])]
#[case::and_is_there_where_nothing_else_is("stock.keepUnlessKept('a', 'Lamp');", &[])]
#[case::the_first_of_several_counts("stock.keepUnlessKept('a', 'Lamp'); stock.keepUnlessKept('b', 'Lamp');", &[])]
#[case::nothing_is_there("", &["missing-implementation Lamp"])]
fn what_may_give_way(#[case] code: &str, #[case] expected: &[&str]) {
    assert_eq!(found("", ONE, &format!("{code}\n")), expected);
}

/// Of several registrations of a contract the workspace may decide; those it decides against are not there for nothing.
#[rstest]
#[case::forbidden("", &["ambiguous-implementation Lamp"])]
#[case::first("[policy]\nsame-contract = \"first\"", &[])]
#[case::last("[policy]\nsame-contract = \"last\"", &[])]
fn one_after_another(#[case] policy: &str, #[case] expected: &[&str]) {
    assert_eq!(found(policy, ONE, "stock.keep('a', 'Lamp');\nstock.keep('b', 'Lamp');"), expected);
}

#[test]
fn what_nobody_asks_for_is_unused_whatever_the_workspace_decides() {
    let code = "stock.keep('a', 'Lamp'); stock.keep('b', 'Bell'); stock.keep('c', 'Bell');";
    assert_eq!(
        found("[policy]\nsame-contract = \"last\"", ONE, code),
        ["unused-service b", "unused-service c"]
    );
}

/// A choice for one alone is nobody else's, and names a service that must be there.
#[test]
fn choices_for_one_alone() {
    expect(
        r#"
//- corvant.toml
[[reader]]
name = "stock"
files = ["**/*.ts"]
syntax = "code"
language = "typescript"
module = "depot"
[[reader.take]]
what = "choice"
each = { code = "stock.give($SERVICE, $CONTRACT, $HOLDER)" }
service = "$.SERVICE"
contract = "$.CONTRACT"
for = "$.HOLDER"
//- web.wiring.yaml
corvant: 1
module: web
services:
  dim: { offers: [Lamp] }
  bright: { offers: [Lamp] }
  board: { type: v.Board, needs: { lamp: { contract: Lamp } } }
  sign: { needs: { lamp: { contract: Lamp } } }
                                     ^^^^ ambiguous-implementation Lamp
  mast: { needs: { lamp: { contract: Lamp } } }
entries: { page: { needs: { a: { service: board }, b: { service: sign }, c: { service: mast } } } }
//- setup.ts
stock.give('bright', 'Lamp', 'v.Board');
stock.give('gone', 'Lamp', 'mast');
            ^^^^ missing-service gone
stock.give('dim', 'Bell', 'sign');
                           ^^^^ unused-choice sign > Bell
stock.give('dim', 'Bell', 'bright');
stock.give('dim', 'Bell', 'nobody');
"#,
    );
}

/// A name that is worked out may be any that stands beside it in the same function: of those nothing is said. Others are missing.
#[test]
fn names_that_are_worked_out() {
    let needs = "a: { service: depot.lamp }, b: { service: depot.bell }";
    let code = "function fill() { for (const id of ['depot.lamp', 'depot.horn']) { stock.keep(id, 'Part'); } }\n\
                function other() { log('depot.bell'); }";
    assert_eq!(found("", needs, code), ["missing-service depot.bell"]);
}

/// What gives way to others is shown beside them.
#[test]
fn what_gives_way_is_shown() {
    use corvant_core::answers::{View, look_up, show::show};
    use corvant_core::audit::{Options, audit};

    let code =
        "stock.keep('a', 'Lamp');\nstock.keepUnlessKept('b', 'Lamp');\nif (x()) { stock.keep('c', 'Lamp'); }";
    let wiring = corvant_testing::wiring_of(&workspace("", ONE, code));
    let report = audit(&wiring, &Options::default());
    let view = View::new(&wiring, None);
    let lamp = look_up(&wiring, "Lamp", None).expect("it is offered");
    let shown = format!("{:?}", show(&view, lamp, &report).facts);
    for name in ["\"a\"", "\"b\"", "\"c\""] {
        assert!(shown.contains(name), "{name} in {shown}");
    }
}

/// A key that code registers under is the one that a mark on a parameter asks for: a constant, or a member of an enumeration.
#[test]
fn keys_in_calls_and_on_parameters() {
    expect(
        r#"
//- corvant.toml
[[types]]
files = ["src/*.java"]
module = { path = "^(?<module>src)/" }
[wire]
mark = [{ name = "v.Beside", gives = "key" }]
[[reader]]
name = "yard"
files = ["src/*.java"]
syntax = "code"
language = "java"
module = "src"
[[reader.take]]
what = "service"
each = { code = ["yard.park($TYPE.class, $KEY)", "yard.park($TYPE.class)"] }
id = { from = "$.TYPE", full = true }
type = { from = "$.TYPE", full = true }
offers = "super-types"
key = "$.KEY"
wire = "constructor"
//- src/Yard.java
package v;
@interface Beside { String value(); }
enum Side { NORTH, SOUTH }
class Tracks { static final String LAST = "last"; }
interface Lamp {}
class Bright implements Lamp {}
class Dim implements Lamp {}
class Gate { Gate(@Beside(Side.NORTH) Lamp one, @Beside(Tracks.LAST) Lamp two, @Beside(Side.SOUTH) Lamp three) {} }
                                                                                ^^^^^^ missing-key v.Lamp#SOUTH
class Setup {
    void fill(Yard yard) {
        yard.park(Bright.class, Side.NORTH);
        yard.park(Dim.class, Tracks.LAST);
        yard.park(Gate.class);
    }
}
//- web.wiring.yaml
corvant: 1
module: web
entries: { page: { needs: { gate: { service: v.Gate } } } }
"#,
    );
}
