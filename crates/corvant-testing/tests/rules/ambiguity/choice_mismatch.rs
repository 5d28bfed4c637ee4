//! `choice-mismatch`: a choice that cannot be honoured.

use corvant_testing::{expect, messages};

#[test]
fn a_choice_is_checked_for_its_service_and_its_contract() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts: { Wide: {}, Narrow: { extends: [Wide] } }
supplied: { services: [host.x] }
choices:
  Wide: { default: a.narrow }
  Hosted: { default: host.x }
  Voice: { default: a.vioce, keys: { cabin: a.clock } }
                    ^^^^^^^ choice-mismatch Voice
                                            ^^^^^^^ choice-mismatch Voice#cabin
services:
  a.narrow: { offers: [Narrow] }
  a.voice: { offers: [Voice] }
  a.other: { offers: [Voice] }
  a.clock: { offers: [Clock] }
entries:
  e:
    needs: { w: { contract: Wide }, h: { contract: Hosted }, v: { contract: Voice }, k: { contract: Voice, key: cabin }, c: { contract: Clock } }
"#,
    );
}

#[test]
fn the_candidate_that_was_meant_is_named() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nchoices: { Voice: { default: a.vioce } }\nservices:\n  a.voice: { offers: [Voice] }\nentries:\n  e: { needs: { v: { contract: Voice } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].text.contains("write a.voice (a.wiring.yaml:5)"), "{found:#?}");
    assert_eq!(found[0].entries, 1);
}
