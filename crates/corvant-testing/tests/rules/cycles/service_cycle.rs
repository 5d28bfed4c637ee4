//! `service-cycle`: services that need one another while they are built.

use corvant_testing::{expect, messages};

#[test]
fn cycles_run_through_contracts_aliases_tags_and_factories() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.contract: { type: velmora.A, offers: [Answer], needs: { x: { service: a.other } } }
                                                                          ^^^^^^^ service-cycle a.contract > a.real
  a.other: { alias-of: a.real }
  a.real: { type: velmora.B, needs: { x: { contract: Answer } } }
  b.board: { type: velmora.C, needs: { rules: { tag: rule } } }
                                                     ^^^^ service-cycle b.board > b.rule
  b.rule: { type: velmora.D, tags: [rule], needs: { board: { service: b.board } } }
  c.factory: { type: velmora.E, needs: { made: { service: c.made } } }
                                                          ^^^^^^ service-cycle c.factory > c.made
  c.made: { type: velmora.F, built-by: { service: c.factory, method: make } }
  d.self: { type: velmora.G, needs: { me: { service: d.self } } }
                                                     ^^^^^^ service-cycle d.self
entries:
  e:
    needs: { a: { service: a.real }, b: { service: b.board }, c: { service: c.made }, d: { service: d.self } }
"#,
    );
}

#[test]
fn a_lazy_or_setter_need_makes_it_a_note() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.one: { needs: { x: { service: a.two, lazy: true } } }\n  a.two: { needs: { x: { service: a.one } } }\n  b.one: { needs: { x: { service: b.two, via: setter } } }\n  b.two: { needs: { x: { service: b.one } } }\nentries:\n  e: { needs: { a: { service: a.one }, b: { service: b.one } } }\n",
    );
    let subjects: Vec<_> = found.iter().map(|found| (found.severity, found.subject.as_str())).collect();
    assert_eq!(subjects, [("note", "a.one > a.two"), ("note", "b.one > b.two")]);
}

#[test]
fn a_cycle_group_is_one_finding_with_its_size_and_what_opens_it() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.a: { needs: { x: { service: a.b } } }\n  a.b: { needs: { x: { service: a.c }, y: { service: a.a } } }\n  a.c: { needs: { x: { service: a.a } } }\nentries:\n  e: { needs: { a: { service: a.a } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert_eq!(found[0].subject, "a.a > a.b");
    assert!(
        found[0].text.contains("the shortest cycle in a group of 3 services with 2 cycles"),
        "{found:#?}"
    );
    assert!(
        found[0].text.contains("make `x` of a.a (a.wiring.yaml:4) `lazy: true`: that opens all of it"),
        "{found:#?}"
    );
}

#[test]
fn two_cycles_with_nothing_in_common_but_a_service_need_two_openings() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.a: { needs: { x: { service: a.b }, y: { service: a.c } } }\n  a.b: { needs: { x: { service: a.a } } }\n  a.c: { needs: { x: { service: a.a } } }\nentries:\n  e: { needs: { a: { service: a.a } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].text.contains("`lazy: true` together"), "{found:#?}");
}
