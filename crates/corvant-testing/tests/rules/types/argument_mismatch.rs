//! `argument-mismatch`: what a service says it needs does not fit the constructor of its type.

use corvant_testing::{expect, messages};
use rstest::rstest;

const CODE: &str = "package v;\nclass Yard {}\nclass Lamp {}\nclass RedLamp extends Lamp {}\n";

/// The finding on a gate, if there is one; of its needs each names `yard`, `lamp` or `red`.
fn of_gate(constructors: &str, needs: &str) -> Option<String> {
    let found = messages(&format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/A.java\n{CODE}class Gate {{ {constructors} }}\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  yard: {{ type: v.Yard }}\n  lamp: {{ type: v.Lamp }}\n  red: {{ type: v.RedLamp }}\n  \
         gate: {{ type: v.Gate, needs: {{ {needs} }} }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ service: gate }}, a: {{ service: yard }}, b: {{ service: lamp }}, c: {{ service: red }} }} }} }}\n"
    ));
    let found: Vec<_> = found.into_iter().filter(|found| found.severity == "error").collect();
    assert!(found.len() <= 1, "{found:#?}");
    found.into_iter().next().map(|found| {
        assert_eq!((found.rule, found.subject.as_str()), ("argument-mismatch", "gate"));
        found.text.lines().next().unwrap_or_default().to_owned()
    })
}

const YARD: &str = "{ service: yard }";
const RED: &str = "{ service: red }";

#[rstest]
#[case::fits("Gate(Yard yard, Lamp lamp) {}", &[("yard", YARD), ("lamp", RED)], None)]
#[case::misspelt("Gate(Yard yard) {}", &[("yrad", YARD)], Some("its constructor has no parameter yrad"))]
#[case::one_too_many("Gate(Yard yard) {}", &[("yard", YARD), ("lamp", RED)], Some("its constructor has no parameter lamp"))]
#[case::takes_nothing("", &[("yard", YARD)], Some("its constructor has no parameter yard"))]
#[case::words_of_the_house("Gate(Yard yard, Lamp lamp) {}", &[("first", YARD), ("second", RED)], None)]
#[case::left_out("Gate(Yard yard, Lamp lamp) {}", &[("yard", YARD)], Some("nothing fills the parameter lamp of its constructor"))]
#[case::left_out_and_not_the_wirings("Gate(Yard yard, int number, String name) {}", &[("yard", YARD)], None)]
#[case::all_left_out("Gate(Yard yard) {}", &[], Some("nothing fills the parameter yard of its constructor"))]
#[case::may_be_left_out("Gate(Yard yard, java.util.Optional<Lamp> lamp) {}", &[("yard", YARD)], None)]
#[case::another_constructor_fits("Gate(Yard yard, Lamp lamp) {} Gate(Yard yard) {}", &[("yard", YARD)], None)]
#[case::of_another_type("Gate(Yard yard, Lamp lamp) {}", &[("yard", RED), ("lamp", RED)], Some("its parameter yard takes v.Yard, and red is v.RedLamp"))]
#[case::by_number("Gate(Yard yard, Lamp lamp) {}", &[("0", YARD), ("1", RED)], None)]
#[case::by_number_from_one("Gate(Yard yard, Lamp lamp) {}", &[("1", YARD), ("2", RED)], None)]
#[case::by_number_too_many("Gate(Yard yard) {}", &[("0", YARD), ("1", RED)], Some("its constructor takes 1 argument, and it gives 2"))]
#[case::by_number_of_another_type("Gate(Yard yard) {}", &[("0", RED)], Some("its parameter yard takes v.Yard, and red is v.RedLamp"))]
#[case::by_number_from_who_knows_where("Gate(Lamp lamp, Yard yard, int number) {}", &[("1", YARD)], None)]
#[case::as_many_as_one_likes("Gate(Yard yard, Lamp... lamps) {}", &[("0", YARD), ("1", RED), ("2", RED)], None)]
#[case::a_setter("Gate() {} void setYard(Yard yard) {}", &[("yard", "{ service: yard, via: setter, method: setYard }")], None)]
fn needs_are_held_against_constructors(
    #[case] constructors: &str,
    #[case] needs: &[(&str, &str)],
    #[case] expected: Option<&str>,
) {
    let needs: Vec<String> = needs.iter().map(|(slot, target)| format!("'{slot}': {target}")).collect();
    let expected = expected.map(|expected| format!("gate does not fit v.Gate: {expected}"));
    assert_eq!(of_gate(constructors, &needs.join(", ")), expected);
}

#[test]
fn places_are_the_slots_and_what_is_left_out() {
    expect(
        r#"
//- corvant.toml
[[types]]
files = ["src/*"]
//- a.wiring.yaml
corvant: 1
module: a
services:
  yard: { type: v.Yard }
  gate: { type: v.Gate, needs: { yrad: { service: yard } } }
                                 ^^^^ argument-mismatch gate
  door: { type: v.Door, needs: { yard: { service: yard } } }
entries: { open: { needs: { gate: { service: gate }, door: { service: door } } } }
//- src/A.java
package v;
class Yard {}
class Gate { Gate(Yard yard) {} }
class Door { Door(Yard yard, Yard other) {} }
                                  ^^^^^ argument-mismatch door
"#,
    );
}

#[test]
fn the_right_name_is_put_in_place() {
    let text = "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/A.java\npackage v; class Yard {} class Gate { Gate(Yard yard) {} }\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: { yard: { type: v.Yard }, gate: { type: v.Gate, needs: { yrad: { service: yard } } } }\n\
         entries: { open: { needs: { gate: { service: gate } } } }\n";
    assert!(messages(text)[0].text.contains("write yard"));
}
