//! `unknown-tag`: a tag that nothing declares or collects.

use corvant_testing::{expect, messages};

#[test]
fn a_tag_is_known_by_being_declared_supplied_or_collected() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags: { declared: { collected-by: a.two } }
supplied: { tags: [supplied] }
services:
  a.one: { tags: [declared, supplied, collected, nowhere] }
                                                 ^^^^^^^ unknown-tag nowhere
  a.two: { tags: [nowhere] }
entries:
  e: { needs: { x: { tag: collected } } }
"#,
    );
}

#[test]
fn the_tag_that_was_meant_is_named_with_its_place() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\ntags: { departure-rule: { collected-by: a.one } }\nservices:\n  a.one: {}\n  a.two: { tags: [departure_rule] }\nentries:\n  e: { needs: { x: { service: a.one } } }\n",
    );
    assert!(found[0].text.contains("write departure-rule, declared at a.wiring.yaml:3"), "{found:#?}");
}
