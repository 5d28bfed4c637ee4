//! `ambiguous-implementation`: several services offer a contract, and nothing says which is meant.

use corvant_testing::{expect, messages};

#[test]
fn defaults_choices_keys_and_single_candidates_settle() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
choices: { Chosen: { default: a.two, keys: { k: a.one } } }
services:
  a.one: { offers: [Chosen, Keyed, Open], key: one }
  a.two: { offers: [Chosen, Defaulted, Keyed, Open], key: two, default: true }
  a.three: { offers: [Defaulted, Same], key: same }
                                             ^^^^ duplicate-key Same#same
  a.four: { offers: [Same], key: same }
  a.plain: { offers: [Plain] }
  a.other: { offers: [Plain] }
  a.unneeded: { offers: [Unneeded] }
  ^^^^^^^^^^ unused-service a.unneeded
  a.wrapper: { wraps: a.four, offers: [Same], needs: { inner: { wrapped: true } } }
entries:
  e:
    needs:
      a: { contract: Chosen }
      b: { contract: Chosen, key: k }
      c: { contract: Defaulted }
      d: { contract: Keyed, key: one }
      e: { contract: Same, key: same }
      f: { contract: Open }
      g: { contract: Plain }
                     ^^^^^ ambiguous-implementation Plain
"#,
    );
}

#[test]
fn every_candidate_is_named_and_what_would_settle_it() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.one: { offers: [X], key: i }\n  a.two: { offers: [X], key: j }\nentries:\n  e: { needs: { x: { contract: X }, y: { contract: X } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    for part in [
        "2 services offer X and nothing says which is meant; 1 entry needs it",
        "candidate a.one",
        "candidate a.two",
        "mark a.one `default: true`, or whichever of them is meant",
        "`choices: { X: { default: a.one } }`",
        "or ask for one by its key: i, j",
    ] {
        assert!(found[0].text.contains(part), "{part}: {found:#?}");
    }
}
