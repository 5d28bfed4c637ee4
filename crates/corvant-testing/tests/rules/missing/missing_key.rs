//! `missing-key`: a contract that is offered, but not under the key that is asked for.

use corvant_testing::{expect, messages};

#[test]
fn the_key_is_blamed_once_for_all_that_ask_for_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.cabin: { type: velmora.Cabin, offers: [Announcer], key: cabin }
  a.one: { type: velmora.One, needs: { voice: { contract: Announcer, key: street } } }
                                                                          ^^^^^^ missing-key Announcer#street
entries:
  e:
    needs:
      one: { service: a.one }
      voice: { contract: Announcer, key: street }
      cabin: { contract: Announcer, key: cabin }
      maybe: { contract: Announcer, key: roof, optional: true }
"#,
    );
}

#[test]
fn the_keys_there_are_and_the_one_that_was_meant_are_named() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.cabin: { offers: [Announcer], key: cabin }\n  a.roof: { offers: [Announcer], key: roof }\nentries:\n  e: { needs: { a: { contract: Announcer, key: rooff } } }\n",
    );
    assert!(found[0].text.contains("only under cabin and roof"), "{found:#?}");
    assert!(found[0].text.contains("write roof, as a.roof (a.wiring.yaml:5) does"), "{found:#?}");
}
