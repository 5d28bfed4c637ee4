//! `wrong-shape`: a value that is not of the shape its field takes.

use corvant_testing::expect;
use rstest::rstest;

#[rstest]
#[case::module_as_a_number("corvant: 1\nmodule: 7\n        ^ wrong-shape module\n")]
#[case::other_version("corvant: 2\n         ^ wrong-shape corvant\nmodule: a\nabout: x\n")]
#[case::no_module("corvant: 1\n wrong-shape module\nabout: x\n")]
#[case::a_list_of_everything("- corvant\n^ wrong-shape .\n")]
#[case::list_for_a_map("corvant: 1\nmodule: a\nservices: [a.b]\n          ^^^^^ wrong-shape services\n")]
#[case::bare_need(
    "corvant: 1\nmodule: a\nentries: { e: { needs: { x: Clock } } }\n                            ^^^^^ wrong-shape entries.e.needs.x\n"
)]
#[case::two_targets(
    "corvant: 1\nmodule: a\nentries: { e: { needs: { x: { tag: b, setting: c } } } }\n                            ^^^^^^^^^^^^^^^^^^^^^^ wrong-shape entries.e.needs.x\n"
)]
#[case::unknown_way(
    "corvant: 1\nmodule: a\nsettings: { b: 1 }\nentries: { e: { needs: { x: { setting: b, via: setters } } } }\n                                               ^^^^^^^ wrong-shape entries.e.needs.x.via\n"
)]
#[case::tag_of_two_names(
    "corvant: 1\nmodule: a\nservices:\n  b.c: { tags: [{ d: {}, e: {} }] }\n                ^^^^^^^^^^^^^^^^ wrong-shape services.b.c.tags.1\n"
)]
#[case::yes_for_true(
    "corvant: 1\nmodule: a\nservices:\n  b.c: { internal: yes }\n                   ^^^ wrong-shape services.b.c.internal\n"
)]
fn each_shape_has_its_place(#[case] text: &str) {
    expect(&format!("//- a.wiring.yaml\n{text}"));
}
