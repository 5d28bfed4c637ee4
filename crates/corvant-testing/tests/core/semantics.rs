//! Where features meet: what docs/semantics.md decides, case by case.

use corvant_testing::{expect, files, messages, wiring};
use rstest::rstest;

/// Rules and subjects that a manifest of one module gives.
fn found(body: &str) -> Vec<String> {
    let text = format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{body}\n");
    let found = messages(&text).into_iter();
    found.map(|found| format!("{} {}", found.rule, found.subject)).collect()
}

#[test]
fn offers_through_narrower_contracts_clash_like_their_own() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts: { V: { extends: [C] }, W: { extends: [D] }, U: { extends: [E] } }
services:
  a.a: { offers: [V], key: k }
                           ^ duplicate-key C#k
  a.b: { offers: [C], key: k }
  b.a: { offers: [W], default: true }
  ^^^ duplicate-default D
  b.b: { offers: [D], default: true }
  c.a: { offers: [U] }
  c.b: { offers: [E] }
  d.a: { offers: [V], key: m }
  d.b: { offers: [C], key: m, default: true }
entries:
  e:
    needs:
      c: { contract: C, key: k }
      d: { contract: D }
      e: { contract: E }
                     ^ ambiguous-implementation E
      settled: { contract: C, key: m }
      v: { contract: V, key: m }
"#,
    );
}

#[test]
fn a_clash_is_behind_every_question_that_it_leaves_open() {
    // Both offer V under the key: that is the cause, and the need on what V extends no other.
    let body = "contracts: { V: { extends: [C] } }\nservices:\n  a.a: { offers: [V], key: k }\n  a.b: { offers: [V], key: k }\nentries:\n  e: { needs: { c: { contract: C, key: k }, v: { contract: V, key: k } } }";
    assert_eq!(found(body), ["duplicate-key V#k"]);
}

#[test]
fn generic_offers_stay_beside_exact_ones() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags: { t: { contract: "S<A>" }, u: { contract: "S<A>", carried-by-all: true } }
choices: { "S<A>": { keys: { k: a.generic } } }
services:
  a.generic: { offers: ["S<*>"], tags: [t] }
  ^^^^^^^^^ untagged-service a.generic
  a.exact: { offers: ["S<A>"], tags: [u] }
entries:
  e: { needs: { s: { contract: "S<A>" }, k: { contract: "S<A>", key: k }, o: { contract: "S<B>" }, t: { tag: t }, u: { tag: u } } }
"#,
    );
}

#[rstest]
#[case::two_arguments("\"Map<*,*>\"", "\"Map<Line, Stop>\"", true)]
#[case::one_star_for_two("\"Map<*>\"", "\"Map<Line,Stop>\"", false)]
#[case::inner_arguments("\"Store<*>\"", "\"Store<Map<Line,Stop>>\"", true)]
fn patterns_have_as_many_arguments(#[case] offered: &str, #[case] needed: &str, #[case] is_met: bool) {
    let body = format!(
        "services:\n  a.x: {{ offers: [{offered}] }}\nexpect: [{{ service: a.x }}]\nentries:\n  e: {{ needs: {{ n: {{ contract: {needed} }} }} }}"
    );
    assert_eq!(found(&body).is_empty(), is_met, "{:?}", found(&body));
}

#[test]
fn what_a_pattern_extends_every_case_of_it_extends() {
    let body = "contracts: { \"Store<*>\": { extends: [C] } }\nservices:\n  a.x: { offers: [\"Store<Ticket>\"] }\nentries:\n  e: { needs: { c: { contract: C } } }";
    assert_eq!(found(body), [""; 0]);
}

#[rstest]
#[case::itself("C", true)]
#[case::narrower("V", true)]
#[case::wider("W", false)]
fn a_supplied_contract_supplies_what_it_extends(#[case] supplied: &str, #[case] is_met: bool) {
    let body = format!(
        "contracts: {{ V: {{ extends: [C] }}, C: {{ extends: [W] }} }}\nsupplied: {{ contracts: [{supplied}] }}\nentries:\n  e: {{ needs: {{ c: {{ contract: C }} }} }}"
    );
    assert_eq!(found(&body).is_empty(), is_met, "{:?}", found(&body));
}

/// What is inside a wrapper of an alias is used, is held too long, closes cycles.
#[test]
fn a_wrapped_alias_is_what_it_stands_for() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.real: { lifetime: request, needs: { again: { service: a.alias } } }
                                                          ^^^^^^^ service-cycle a.real > a.wrapper
  a.alias: { alias-of: a.real }
  a.wrapper: { wraps: a.alias, lifetime: process, needs: { inner: { wrapped: true } } }
                                                                             ^^^^ short-lived-need a.wrapper > a.real
entries:
  e: { needs: { x: { service: a.alias } } }
"#,
    );
}

#[rstest]
#[case::cycle("  a.x: { replaces: a.y }\n  a.y: { replaces: a.x }", "definition-cycle a.x > a.y")]
#[case::itself("  a.x: { replaces: a.x }", "definition-cycle a.x")]
#[case::with_an_alias("  a.x: { alias-of: a.y }\n  a.y: { wraps: a.x }", "definition-cycle a.x > a.y")]
fn what_leads_back_to_itself_is_a_cycle(#[case] services: &str, #[case] expected: &str) {
    let body = format!("services:\n{services}\nentries:\n  e: {{ needs: {{ x: {{ service: a.x }} }} }}");
    assert_eq!(found(&body), [expected]);
}

#[rstest]
#[case::wraps_nothing("  a.x: { needs: { inner: { wrapped: true } } }", "missing-service a.x")]
#[case::by_its_template(
    "  a.t: { template: true, needs: { inner: { wrapped: true } } }\n  a.x: { like: a.t }",
    "missing-service a.x"
)]
#[case::wraps("  a.x: { wraps: a.y, needs: { inner: { wrapped: true } } }\n  a.y: {}", "")]
#[case::wraps_what_is_supplied("  a.x: { wraps: host.y, needs: { inner: { wrapped: true } } }", "")]
#[case::wraps_what_is_gone(
    "  a.x: { wraps: a.gone, needs: { inner: { wrapped: true } } }",
    "missing-service a.gone"
)]
#[case::two_share_a_template(
    "  a.t: { template: true, needs: { inner: { wrapped: true } } }\n  a.x: { like: a.t, wraps: a.y }\n  a.z: { like: a.t, wraps: a.w }\n  a.y: {}\n  a.w: {}",
    ""
)]
fn needs_on_what_is_wrapped(#[case] services: &str, #[case] expected: &str) {
    let last = if services.contains("a.z") { ", z: { service: a.w }" } else { "" };
    let body = format!(
        "supplied: {{ services: [host.y] }}\nservices:\n{services}\nentries:\n  e: {{ needs: {{ x: {{ service: a.x }}{last} }} }}"
    );
    assert_eq!(found(&body), expected.split_terminator('\n').collect::<Vec<_>>());
}

#[test]
fn entries_and_providers_wrap_nothing() {
    let body = "entries:\n  e: { needs: { x: { wrapped: true } } }\nproviders:\n  p: { start: { needs: { x: { wrapped: true } } } }";
    assert_eq!(
        found(body),
        ["wrong-shape entries.e.needs.x.wrapped", "wrong-shape providers.p.start.needs.x.wrapped"]
    );
}

#[rstest]
#[case::wraps("wraps")]
#[case::replaces("replaces")]
fn what_is_wrapped_or_replaced_must_be_there_in_each_stage(#[case] verb: &str) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.x: {{ stages: [drill] }}\n  a.y: {{ {verb}: a.x }}\n  a.z: {{ stages: [live] }}\nentries: {{ e: {{ needs: {{ y: {{ service: a.y }}, z: {{ service: a.z, optional: true }} }} }} }}\n"
    );
    let found = messages(&text);
    let found: Vec<_> =
        found.iter().map(|found| (found.rule, found.subject.as_str(), found.holds.clone())).collect();
    let holds = Some(vec!["-".to_owned(), "live".to_owned()]);
    assert_eq!(found, [("missing-service", "a.x", holds)]);
}

#[test]
fn a_wrapper_is_blamed_for_its_own_offers_and_keys() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
tags: { t: { contract: Rule, carried-by-all: true } }
services:
  a.inner: { offers: [Voice], key: j }
  a.outer: { wraps: a.inner, offers: [Rule], key: k }
  ^^^^^^^ untagged-service a.outer
  a.tagged: { offers: [Rule], tags: [t] }
entries:
  e: { needs: { v: { contract: Voice, key: j }, t: { tag: t } } }
"#,
    );
}

#[test]
fn only_ones_own_module_opens_what_is_internal() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.inner: { internal: true }
  a.other: { internal: true }
  a.door: { wraps: a.other, needs: { inner: { wrapped: true } } }
//- b.wiring.yaml
corvant: 1
module: b
services:
  b.alias: { alias-of: a.inner }
  b.user: { needs: { x: { service: b.alias }, y: { service: a.other } } }
                                   ^^^^^^^ internal-reach a.inner
entries:
  e: { needs: { x: { service: b.user } } }
"#,
    );
}

#[test]
fn a_slot_is_how_it_is_filled() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.common:
    template: true
    needs:
      "0": { service: a.gone, via: setter, method: setClock }
                      ^^^^^^ missing-service a.gone
      "1": { service: a.lost }
  a.x: { like: a.common, needs: { "0": { service: a.y }, "1": { service: a.y } } }
  a.y: {}
entries:
  e: { needs: { x: { service: a.x } } }
"#,
    );
}

/// Rules that hold where what they speak of is there, and nowhere else.
#[rstest]
#[case::repeated_tag(
    "services:\n  a.x: { stages: [drill], tags: [t, t] }\nentries: { e: { needs: { t: { tag: t } } } }",
    "repeated-tag"
)]
#[case::hidden_need(
    "services:\n  a.x: { stages: [drill], needs: { y: { service: a.y, via: look-up } } }\n  a.y: {}\nentries: { e: { needs: { y: { service: a.y }, x: { service: a.x, optional: true } } } }",
    "hidden-need"
)]
#[case::missing_provider(
    "roster: { drill: [p.gone], live: [] }\nproviders: { p.x: {} }\nentries: { e: {} }",
    "missing-provider"
)]
#[case::duplicate_provider(
    "roster: { drill: [p.x, p.x], live: [p.x] }\nproviders: { p.x: {} }",
    "duplicate-provider"
)]
#[case::definition_cycle(
    "services:\n  a.x: { stages: [drill], like: a.y }\n  a.y: { stages: [drill], like: a.x }\nexpect: [{ contract: Host }]\nsupplied: { contracts: [Host] }",
    "definition-cycle"
)]
#[case::of_settings(
    "settings:\n  a.x: { value: 1, stages: { drill: \"${a.y}\", live: 1 } }\n  a.y: \"${a.x}\"",
    "definition-cycle"
)]
fn findings_hold_where_what_they_speak_of_is(#[case] body: &str, #[case] rule: &str) {
    let text =
        format!("//- corvant.toml\nstages.live = {{}}\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{body}\n");
    let found = messages(&text);
    let holds: Vec<_> =
        found.iter().filter(|found| found.rule == rule).map(|found| found.holds.clone()).collect();
    assert_eq!(holds, [Some(vec!["drill".to_owned()])], "{found:#?}");
}

#[test]
fn needs_of_modules_hold_where_the_one_that_has_them_does() {
    let text = r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: []
services:
  a.x: { stages: [drill], needs: { b: { service: b.x } } }
  a.y: {}
  a.z: { stages: [live] }
//- b.wiring.yaml
corvant: 1
module: b
services:
  b.x: { needs: { a: { service: a.y } } }
entries: { e: { needs: { b: { service: b.x }, x: { service: a.x, optional: true }, z: { service: a.z, optional: true } } } }
"#;
    let found = messages(text);
    let found: Vec<_> =
        found.iter().map(|found| (found.rule, found.subject.as_str(), found.holds.clone())).collect();
    let drill = || Some(vec!["drill".to_owned()]);
    assert_eq!(found, [("undeclared-use", "a > b", drill()), ("module-cycle", "a > b", drill())]);
}

#[test]
fn where_some_stage_is_always_chosen_none_is_not_audited() {
    let body = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.d: { stages: [drill], offers: [C] }\n  a.l: { stages: [live], offers: [C], needs: { x: { service: a.gone } } }\nentries: { e: { needs: { c: { contract: C } } } }\n";
    let holds = |text: &str| -> Vec<_> {
        messages(text).into_iter().map(|found| (found.rule, found.holds)).collect()
    };
    let live = || Some(vec!["live".to_owned()]);
    let none = Some(vec!["-".to_owned()]);
    assert_eq!(holds(body), [("missing-service", live()), ("missing-implementation", none)]);
    let always = format!("{body}//- corvant.toml\npolicy.stage-required = true\n");
    assert_eq!(holds(&always), [("missing-service", live())]);
    // Without any stage there is but one way to look at it.
    let plain = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: { needs: { c: { contract: C } } } }\n//- corvant.toml\npolicy.stage-required = true\n";
    assert_eq!(holds(plain), [("missing-implementation", None)]);
}

#[test]
fn carriers_and_values_are_counted_as_what_they_are() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { settings: [host.zone] }
settings: { host.zone: { required: true } }
tags: { t: { at-least: 2 } }
        ^ missing-carrier t
services:
  a.x: { tags: [{ t: { at: 1 } }, { t: { at: 2 } }] }
  a.y: { wraps: a.x, tags: [t] }
contracts:
  Narrow: { extends: [Wide] }
  ^^^^^^ unused-contract Narrow
  Wide: {}
  ^^^^ unused-contract Wide
  "Store<*>": {}
  ^^^^^^^^^^ unused-contract Store<*>
  "Cache<*>": {}
  Used: { extends: [Base] }
  Base: {}
entries:
  e: { needs: { t: { tag: t }, z: { setting: host.zone }, c: { contract: "Cache<Line>", optional: true }, u: { contract: Used, optional: true } } }
"#,
    );
}

#[test]
fn expectations_and_what_is_collected_are_uses_of_modules() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: [b, c, d]
             ^ unused-use a > d
expect: [{ service: b.x }]
entries:
  e: { needs: { t: { tag: t } } }
//- b.wiring.yaml
corvant: 1
module: b
services: { b.x: {} }
//- c.wiring.yaml
corvant: 1
module: c
uses: [a]
services: { c.x: { tags: [t] } }
//- d.wiring.yaml
corvant: 1
module: d
about: nothing is needed of it
"#,
    );
}

#[test]
fn what_only_an_unlisted_provider_registers_is_said_to_be_missed() {
    let text = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nroster: [p.one]\nproviders: { p.one: { registers: [a.x] }, p.two: { registers: [a.y, a.x] }, p.three: { registers: [a.z] } }\nservices:\n  a.x: { needs: { y: { service: a.y } } }\n  a.y: {}\n  a.z: {}\nentries: { e: { needs: { x: { service: a.x }, z: { service: a.z, optional: true } } } }\n";
    let found = messages(text);
    let told: Vec<_> =
        found.iter().map(|found| (found.severity, found.rule, found.subject.as_str())).collect();
    assert_eq!(told, [("error", "unlisted-provider", "p.two"), ("warning", "unlisted-provider", "p.three")]);
    for part in ["a.y, which it alone registers, is needed and never there", "a.x needs a.y here"] {
        assert!(found[0].text.contains(part), "{found:#?}");
    }
    assert_eq!((found[0].services, found[0].entries), (1, 1));
}

#[test]
fn a_wrapper_holds_what_it_wraps_whether_or_not_it_says_so() {
    let body = "services:\n  a.x: { lifetime: request }\n  a.y: { wraps: a.x, lifetime: process }\nentries:\n  e: { needs: { x: { service: a.x } } }";
    assert_eq!(found(body), ["short-lived-need a.y > a.x"]);
}

#[test]
fn a_name_that_but_ends_alike_is_no_misspelling() {
    // Both end alike, and are two things: nothing uses the one.
    let body =
        "services:\n  vehicles.locator: {}\nentries:\n  e: { needs: { x: { service: depot.locator } } }";
    assert_eq!(found(body), ["missing-service depot.locator", "unused-service vehicles.locator"]);
    let misspelt = body.replace("depot.locator", "vehicles.locater");
    assert_eq!(found(&misspelt), ["missing-service vehicles.locater"]);
}

#[test]
fn what_is_missing_behind_an_alias_is_missing_for_all_who_need_the_alias() {
    let text = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.alias: { alias-of: a.gone }\n  a.x: { needs: { n: { service: a.alias } } }\nentries: { e: { needs: { x: { service: a.x } } } }\n";
    let found = messages(text);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert_eq!(
        (found[0].rule, found[0].subject.as_str(), found[0].entries),
        ("missing-service", "a.gone", 1)
    );
    assert!(found[0].text.contains("aliased here by a.alias\nneeded here by a.x"), "{found:#?}");
}

#[rstest]
#[case::settled_by_a_default("a.x: { offers: [C], default: true }\n  a.y: { offers: [C] }", &["unused-service a.y"])]
#[case::settled_by_nothing("a.x: { offers: [C] }\n  a.y: { offers: [C] }", &["ambiguous-implementation C"])]
#[case::settled_since_one_is_a_template("a.x: { offers: [C] }\n  a.y: { offers: [C], template: true }", &[])]
#[case::settled_since_one_wraps_the_other("a.x: { offers: [C] }\n  a.y: { wraps: a.x, offers: [C] }", &[])]
#[case::settled_since_one_replaces_the_other("a.x: { offers: [C] }\n  a.y: { replaces: a.x, offers: [C] }", &[])]
#[case::settled_since_an_alias_is_no_other("a.x: { offers: [C] }\n  a.y: { alias-of: a.x }", &["unused-alias a.y"])]
fn what_settles_who_answers_for_a_contract(#[case] services: &str, #[case] expected: &[&str]) {
    let body = format!("services:\n  {services}\nentries: {{ e: {{ needs: {{ c: {{ contract: C }} }} }} }}");
    assert_eq!(found(&body), expected);
}

#[rstest]
#[case::as_it_is("a.y: { needs: { n: { service: a.gone } } }", &["missing-service a.gone"])]
#[case::of_a_model("a.m: { template: true, needs: { n: { service: a.gone } } }\n  a.y: { like: a.m }", &["missing-service a.gone"])]
#[case::of_a_model_of_a_model("a.n: { template: true, needs: { n: { service: a.gone } } }\n  a.m: { like: a.n, template: true }\n  a.y: { like: a.m }", &["missing-service a.gone"])]
#[case::filled_by_ones_own("a.m: { template: true, needs: { n: { service: a.gone } } }\n  a.y: { like: a.m, needs: { n: { service: a.z } } }\n  a.z: {}", &[])]
#[case::optional("a.y: { needs: { n: { service: a.gone, optional: true } } }", &[])]
#[case::of_what_is_wrapped("a.x: { needs: { n: { service: a.gone } } }\n  a.y: { wraps: a.x }", &["missing-service a.gone"])]
#[case::of_what_is_replaced("a.y: { needs: { n: { service: a.gone } } }\n  a.x: { replaces: a.y }", &[])]
fn whose_needs_are_audited(#[case] services: &str, #[case] expected: &[&str]) {
    let body = format!("services:\n  {services}\nentries: {{ e: {{ needs: {{ y: {{ service: a.y }} }} }} }}");
    assert_eq!(found(&body), expected);
}

#[rstest]
#[case::the_need("e: { needs: { y: { service: a.y } } }", &["missing-service a.y"])]
#[case::optional("e: { needs: { y: { service: a.y, optional: true } } }", &[])]
#[case::looked_up("e: { needs: { y: { service: a.y, via: look-up } } }", &["lookup-of-missing a.y"])]
#[case::needed_twice("e: { needs: { y: { service: a.y }, z: { service: a.y } } }", &["missing-service a.y"])]
#[case::by_two("e: { needs: { y: { service: a.y } } }\n  f: { needs: { y: { service: a.y } } }", &["missing-service a.y"])]
fn how_it_is_needed_decides_what_is_missing(#[case] entries: &str, #[case] expected: &[&str]) {
    assert_eq!(found(&format!("entries:\n  {entries}")), expected);
    // What the host platform brings is never missing.
    assert_eq!(found(&format!("supplied: {{ services: [a.y] }}\nentries:\n  {entries}")), [] as [&str; 0]);
}

#[rstest]
#[case::a_wrapper_and_what_it_wraps("a.x: { needs: { y: { service: a.y } } }\n  a.y: { wraps: a.z }\n  a.z: { needs: { x: { service: a.x } } }", &["service-cycle a.x > a.y > a.z"])]
#[case::broken_by_laziness("a.x: { needs: { y: { service: a.y, lazy: true } } }\n  a.y: { needs: { x: { service: a.x } } }", &["service-cycle a.x > a.y"])]
#[case::broken_by_a_look_up("a.x: { needs: { y: { service: a.y, via: look-up } } }\n  a.y: { needs: { x: { service: a.x } } }", &["hidden-need a.x"])]
#[case::through_an_alias("a.x: { needs: { y: { service: a.z } } }\n  a.y: { needs: { x: { service: a.x } } }\n  a.z: { alias-of: a.y }", &["service-cycle a.x > a.y"])]
fn what_closes_a_cycle(#[case] services: &str, #[case] expected: &[&str]) {
    let body = format!("services:\n  {services}\nentries: {{ e: {{ needs: {{ x: {{ service: a.x }} }} }} }}");
    assert_eq!(found(&body), expected);
}

/// What a model in another file says stands, for who takes it over, where that is said.
#[test]
fn what_is_taken_over_from_another_file_has_a_place_in_the_own_file() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.base:
    template: true
    about: long enough for its places to be beyond the end of the other file, whatever stands there before it
    lifetime: request
    offers: [Board]
//- b.wiring.yaml
corvant: 1
module: b
services:
  b.fleet: { lifetime: process, needs: { board: { contract: Board } } }
                                                            ^^^^^ short-lived-need b.fleet > b.board
  b.board: { like: a.base }
entries: { e: { needs: { fleet: { service: b.fleet } } } }
"#,
    );
    let files = files(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.base: { template: true, type: velmora.Board, lifetime: request, offers: [Board] }\n\
         //- b.wiring.yaml\ncorvant: 1\nmodule: b\nservices:\n  b.board: { like: a.base }\n",
    );
    let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    for service in wiring.facts.services.iter().filter(|service| service.like.is_some()) {
        let names = [service.type_name, service.lifetime].into_iter().flatten();
        let names = names.chain(service.offers.of(&wiring.facts.parts).iter().copied());
        let places: Vec<String> = names.map(|named| wiring.address(service.source, named.span)).collect();
        assert_eq!(places, ["b.wiring.yaml:4"; 3]);
    }
    for (name, count) in [("velmora.Board", 1), ("request", 1), ("Board", 1)] {
        assert_eq!(
            corvant_core::answers::find::find(&wiring, None, |text| text == name).len(),
            count,
            "{name}"
        );
    }
}
