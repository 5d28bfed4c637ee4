//! `missing-setting`: a setting without a value.

use corvant_testing::{expect, messages};

#[test]
fn values_come_from_anywhere_and_references_are_needs() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { settings: [host.zone] }
settings:
  a.feed: "file:${a.name}/${a.nmae}/${host.zone}"
                            ^^^^^^ missing-setting a.nmae
  a.name: { about: "the value is given by the other file" }
  a.key: { required: true }
  ^^^^^ missing-setting a.key
//- b.wiring.yaml
corvant: 1
module: a
settings:
  a.name: departures
entries:
  e: { needs: { feed: { setting: a.feed }, zone: { setting: host.zone }, x: { setting: b.x, optional: true } } }
"#,
    );
}

#[test]
fn each_stage_is_asked_for_its_value() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nsettings:\n  a.feed: { stages: { drill: x } }\n  a.zone: { value: 1, stages: { rehearsal: 2 } }\nentries:\n  e: { needs: { f: { setting: a.feed }, z: { setting: a.zone } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].text.contains("the setting a.feed is declared and has no value in stage rehearsal"));
    assert_eq!(found[0].holds.as_deref(), Some(&["rehearsal".to_owned()][..]));
}
