//! What every kind of need gets, case by case.

use corvant_core::answers::show::{Said, show};
use corvant_core::answers::terms::Reason;
use corvant_core::answers::{Kind, Subject, View};
use corvant_core::audit::{Options, audit};
use corvant_core::name::Name;
use corvant_core::wiring::{NeedIndex, Wiring};
use rstest::rstest;

fn linked(body: &str) -> Wiring {
    let text = format!("corvant: 1\nmodule: m\n{body}\n");
    let wiring = corvant_testing::wiring([("m.wiring.yaml", text.as_str())]);
    assert!(wiring.facts.troubles.is_empty(), "{:?}", wiring.facts.troubles);
    wiring
}

/// What the only need of the only entry gets in a stage.
fn met(wiring: &Wiring, stage: Option<&str>) -> String {
    let stage: Option<Name> = stage.map(|stage| wiring.names.find(stage).expect("the stage is named"));
    let view = View::new(wiring, stage);
    let need = NeedIndex::new(wiring.facts.entries[0].needs.range().start);
    let gets = view.gets(need);
    match (gets.service, gets.reason) {
        (Some(service), _) => service,
        (None, Reason::Carried(count)) => carriers(&view, count).join(" "),
        (None, Reason::Ambiguous(count)) => format!("one of {count}"),
        (None, reason) => reason.kind().word().to_owned(),
    }
}

/// Who carries the tag `t`, in the order in which they are collected.
fn carriers(view: &View<'_>, count: usize) -> Vec<String> {
    let subject = Subject { kind: Kind::Tag, name: view.wiring.names.find("t").expect("it is carried") };
    let sheet = show(view, subject, &audit(view.wiring, &Options::default()));
    let carriers = sheet.facts.into_iter().filter_map(|fact| match fact.said {
        Said::Tag { name, .. } => Some(name),
        _ => None,
    });
    let carriers: Vec<String> = carriers.collect();
    assert_eq!(carriers.len(), count);
    carriers
}

fn gets(services: &str, need: &str) -> String {
    met(&linked(&format!("services:\n{services}\nentries:\n  e: {{ needs: {{ x: {need} }} }}")), None)
}

#[rstest]
#[case::itself("  a: {}", "a")]
#[case::undefined("  b: {}", "missing")]
#[case::template("  a: { template: true }", "missing")]
#[case::alias("  a: { alias-of: b }\n  b: {}", "b")]
#[case::alias_of_alias("  a: { alias-of: b }\n  b: { alias-of: c }\n  c: {}", "c")]
#[case::aliases_in_a_cycle("  a: { alias-of: b }\n  b: { alias-of: a }", "unknown")]
#[case::alias_of_itself("  a: { alias-of: a }", "unknown")]
#[case::alias_of_nothing("  a: { alias-of: b }", "missing")]
#[case::replaced("  a: {}\n  b: { replaces: a }", "b")]
#[case::replaced_before_it_is_defined("  b: { replaces: a }\n  a: {}", "b")]
#[case::wrapped("  a: {}\n  b: { wraps: a }", "b")]
#[case::wrapped_twice("  a: {}\n  b: { wraps: a }\n  c: { wraps: a }", "c")]
#[case::wrapper_wrapped("  a: {}\n  b: { wraps: a }\n  c: { wraps: b }", "c")]
#[case::replacement_wrapped("  a: {}\n  b: { replaces: a }\n  c: { wraps: a }", "c")]
#[case::alias_of_a_wrapped_one("  a: { alias-of: b }\n  b: {}\n  c: { wraps: b }", "c")]
#[case::wrapping_itself("  a: { wraps: a }", "unknown")]
#[case::wrapped_alias("  a: { alias-of: b }\n  b: {}\n  c: { wraps: a }", "c")]
#[case::what_a_wrapped_alias_stands_for("  b: { alias-of: a }\n  a: {}\n  c: { wraps: b }", "a")]
#[case::replaced_replacement("  a: {}\n  b: { replaces: a }\n  c: { replaces: b }", "c")]
#[case::replaced_twice("  a: {}\n  b: { replaces: a }\n  c: { replaces: a }", "b")]
#[case::replacements_in_a_cycle("  a: { replaces: b }\n  b: { replaces: a }", "unknown")]
#[case::replacing_itself("  a: { replaces: a }", "a")]
#[case::replacing_what_it_wraps("  a: {}\n  b: { replaces: a, wraps: a }", "unknown")]
#[case::wrapped_template("  a: { template: true }\n  b: { wraps: a }", "missing")]
#[case::alias_of_a_template("  a: { alias-of: b }\n  b: { template: true }", "missing")]
#[case::wrapped_under_two_ids("  a: {}\n  b: { replaces: a }\n  c: { wraps: a }\n  d: { wraps: b }", "d")]
#[case::limited_to_a_stage("  a: { stages: [drill] }", "missing")]
fn an_id_leads_to_what_is_built(#[case] services: &str, #[case] expected: &str) {
    assert_eq!(gets(services, "{ service: a }"), expected);
}

#[rstest]
#[case::nobody("  a: {}", "missing")]
#[case::only_candidate("  a: { offers: [C] }", "a")]
#[case::two("  a: { offers: [C] }\n  b: { offers: [C] }", "one of 2")]
#[case::one_default("  a: { offers: [C] }\n  b: { offers: [C], default: true }", "b")]
#[case::two_defaults("  a: { offers: [C], default: true }\n  b: { offers: [C], default: true }", "one of 2")]
#[case::keyed_ones_count("  a: { offers: [C], key: k }", "a")]
#[case::templates_do_not("  a: { offers: [C], template: true }\n  b: { offers: [C] }", "b")]
#[case::wrapper_stands_for_what_it_wraps("  a: { offers: [C] }\n  b: { wraps: a }", "b")]
#[case::wrapper_and_wrapped_are_one("  a: { offers: [C] }\n  b: { wraps: a, offers: [C] }", "b")]
#[case::default_is_wrapped(
    "  a: { offers: [C], default: true }\n  b: { wraps: a }\n  c: { offers: [C] }",
    "b"
)]
#[case::replaced_ones_do_not("  a: { offers: [C] }\n  b: { replaces: a }", "missing")]
#[case::inherited_offer("  a: { template: true, offers: [C] }\n  b: { like: a }", "b")]
fn a_contract_leads_to_its_candidate(#[case] services: &str, #[case] expected: &str) {
    assert_eq!(gets(services, "{ contract: C }"), expected);
}

#[rstest]
#[case::under_the_key("  a: { offers: [C], key: k }\n  b: { offers: [C], key: l }", "a")]
#[case::under_another("  a: { offers: [C], key: l }", "missing-key")]
#[case::offered_without("  a: { offers: [C] }", "missing-key")]
#[case::nobody("  a: { key: k }", "missing")]
#[case::two("  a: { offers: [C], key: k }\n  b: { offers: [C], key: k }", "one of 2")]
#[case::one_default("  a: { offers: [C], key: k, default: true }\n  b: { offers: [C], key: k }", "a")]
#[case::wrapped("  a: { offers: [C], key: k }\n  b: { wraps: a }", "b")]
fn a_key_leads_to_what_is_under_it(#[case] services: &str, #[case] expected: &str) {
    assert_eq!(gets(services, "{ contract: C, key: k }"), expected);
}

#[rstest]
#[case::exact("Store<Ticket>", "exact")]
#[case::open("Store<Line>", "open")]
#[case::another_base("Shelf<Line>", "missing")]
#[case::the_open_form_itself("Store<*>", "open")]
fn generic_offers_answer_after_exact_ones(#[case] contract: &str, #[case] expected: &str) {
    let services = "  open: { offers: ['Store<*>'] }\n  exact: { offers: ['Store<Ticket>'] }";
    assert_eq!(gets(services, &format!("{{ contract: '{contract}' }}")), expected);
}

#[rstest]
#[case::direct("Narrow", "a")]
#[case::one_up("Middle", "a")]
#[case::two_up("Wide", "a")]
#[case::not_down("Narrowest", "missing")]
fn narrower_contracts_answer_for_wider_ones(#[case] contract: &str, #[case] expected: &str) {
    let body = format!(
        "contracts:\n  Middle: {{ extends: [Wide] }}\n  Narrow: {{ extends: [Middle] }}\n  Narrowest: {{ extends: [Narrow] }}\n\
         services:\n  a: {{ offers: [Narrow] }}\nentries:\n  e: {{ needs: {{ x: {{ contract: {contract} }} }} }}"
    );
    assert_eq!(met(&linked(&body), None), expected);
}

#[test]
fn contracts_that_extend_each_other_in_a_cycle_end() {
    let body = "contracts: { A: { extends: [B] }, B: { extends: [A] } }\nservices:\n  a: { offers: [A] }\nentries:\n  e: { needs: { x: { contract: B } } }";
    assert_eq!(met(&linked(body), None), "a");
}

#[rstest]
#[case::chosen("C: { default: b }", "{ contract: C }", "b")]
#[case::chosen_by_key("C: { keys: { k: b } }", "{ contract: C, key: k }", "b")]
#[case::chosen_for_another_key("C: { keys: { l: b } }", "{ contract: C, key: k }", "a")]
#[case::chosen_through_an_alias("C: { default: other }", "{ contract: C }", "b")]
#[case::chosen_one_is_missing("C: { default: none }", "{ contract: C }", "one of 2")]
fn choices_settle(#[case] choice: &str, #[case] need: &str, #[case] expected: &str) {
    let body = format!(
        "choices:\n  {choice}\nservices:\n  a: {{ offers: [C], key: k }}\n  b: {{ offers: [C] }}\n  other: {{ alias-of: b }}\n\
         entries:\n  e: {{ needs: {{ x: {need} }} }}"
    );
    assert_eq!(met(&linked(&body), None), expected);
}

#[rstest]
#[case::service("{ service: host.s }", "supplied")]
#[case::contract("{ contract: Host }", "supplied")]
#[case::contract_with_a_key("{ contract: Host, key: k }", "supplied")]
#[case::setting("{ setting: host.x }", "supplied")]
#[case::own_candidates_go_first("{ contract: Both }", "a")]
#[case::optional("{ service: none, optional: true }", "absent")]
#[case::the_platform_may_have_any_key("{ contract: Both, key: any }", "supplied")]
fn supplied_names_and_optional_needs_are_met(#[case] need: &str, #[case] expected: &str) {
    let body = format!(
        "supplied: {{ services: [host.s], contracts: [Host, Both], settings: [host.x] }}\nservices:\n  a: {{ offers: [Both] }}\n\
         entries:\n  e: {{ needs: {{ x: {need} }} }}"
    );
    assert_eq!(met(&linked(&body), None), expected);
}

#[test]
fn a_tag_leads_to_all_that_carry_it_in_the_order_of_definitions() {
    let services =
        "  c: { tags: [t] }\n  a: { tags: [u, t] }\n  b: { tags: [t], template: true }\n  d: { like: b }";
    assert_eq!(gets(services, "{ tag: t }"), "c a d");
}

#[rstest]
#[case::value("s: 1", None, "value")]
#[case::list("s: [1, 2]", None, "value")]
#[case::long_form("s: { value: 1 }", None, "value")]
#[case::declared_only("s: { about: nothing }", None, "missing")]
#[case::undeclared("other: 1", None, "missing")]
#[case::stage_has_it("s: { stages: { drill: 1 } }", Some("drill"), "value")]
#[case::another_stage_has_it(
    "s: { stages: { drill: 1 }, about: x }\n  t: { stages: { live: 1 } }",
    Some("live"),
    "missing"
)]
#[case::left_to_stages("s: { stages: { drill: 1 } }", None, "unknown")]
#[case::required_without_stages("s: { required: true }", None, "missing")]
fn settings_have_values_by_stage(
    #[case] settings: &str,
    #[case] stage: Option<&str>,
    #[case] expected: &str,
) {
    let body = format!("settings:\n  {settings}\nentries:\n  e: {{ needs: {{ x: {{ setting: s }} }} }}");
    assert_eq!(met(&linked(&body), stage), expected);
}

#[rstest]
#[case::in_it(Some("drill"), "a")]
#[case::in_another(Some("live"), "b")]
#[case::in_none(None, "missing")]
fn definitions_count_in_their_stages(#[case] stage: Option<&str>, #[case] expected: &str) {
    let body = "services:\n  a: { stages: [drill], offers: [C] }\n  b: { stages: [live, other], offers: [C] }\n\
                entries:\n  e: { needs: { x: { contract: C } } }";
    assert_eq!(met(&linked(body), stage), expected);
}

#[test]
fn a_wrapper_gets_what_it_wraps() {
    let body = "services:\n  a: {}\n  b: { wraps: a, needs: { inner: { wrapped: true } } }\n  c: { wraps: a, needs: { inner: { wrapped: true } } }";
    let wiring = linked(body);
    let view = View::new(&wiring, None);
    let ids: Vec<Option<String>> = (0..2).map(|need| view.gets(NeedIndex(need)).service).collect();
    assert_eq!(ids, [Some("a".to_owned()), Some("b".to_owned())]);
}

#[test]
fn what_is_like_another_takes_over_what_it_does_not_say() {
    let body = "settings: { s: 1, t: 2 }\nservices:\n\
                \x20 base: { template: true, type: velmora.Base, lifetime: process, key: k, needs: { x: { setting: s }, y: { setting: s } }, tags: [one] }\n\
                \x20 middle: { like: base, template: true, needs: { y: { setting: t } } }\n\
                \x20 leaf: { like: middle, type: velmora.Leaf, tags: [two] }\n\
                \x20 ring-a: { like: ring-b, type: velmora.A }\n\
                \x20 ring-b: { like: ring-a }\n\
                \x20 lost: { like: nowhere, type: velmora.Lost }";
    let wiring = linked(body);
    let text = |named: Option<corvant_core::facts::Named>| named.map(|named| wiring.text(named.name));
    let service = |id: &str| {
        let (_, service) = wiring.services().find(|(index, _)| wiring.id(*index) == id).unwrap();
        service
    };
    let leaf = service("leaf");
    assert_eq!(text(leaf.type_name), Some("velmora.Leaf"));
    assert_eq!((text(leaf.lifetime), text(leaf.key)), (Some("process"), Some("k")));
    let needs = leaf.needs.of(&wiring.facts.parts);
    let slots: Vec<_> = needs.iter().map(|need| (wiring.text(need.slot.name), need.target)).collect();
    let setting = |name: &str| corvant_core::facts::Target::Setting(wiring.names.find(name).unwrap());
    assert_eq!(slots, [("y", setting("t")), ("x", setting("s"))]);
    let tags = leaf.taggings.of(&wiring.facts.parts).iter().map(|tagging| wiring.text(tagging.tag.name));
    assert_eq!(tags.collect::<Vec<_>>(), ["two", "one"]);
    assert!(!leaf.template);
    assert_eq!(text(service("ring-b").type_name), None);
    assert_eq!(text(service("lost").type_name), Some("velmora.Lost"));
}

#[test]
fn a_long_line_of_aliases_is_followed_to_its_end() {
    let count = 20_000;
    let aliases: String =
        (0..count).map(|number| format!("  a{number}: {{ alias-of: a{} }}\n", number + 1)).collect();
    assert_eq!(gets(&format!("{aliases}  a{count}: {{}}"), "{ service: a0 }"), format!("a{count}"));
}

#[rstest]
#[case::by_definition("", "a b c d")]
#[case::by_number("attributes: { at: { kind: integer, required: true } }", "c b a d")]
#[case::by_two(
    "attributes: { in: { kind: number, required: true }, at: { kind: integer, required: true } }",
    "b c a d"
)]
#[case::optional_ones_say_nothing("attributes: { at: { kind: integer } }", "a b c d")]
#[case::texts_say_nothing("attributes: { at: { kind: text, required: true } }", "a b c d")]
fn carriers_are_collected_in_the_order_of_their_attributes(#[case] rules: &str, #[case] expected: &str) {
    let wiring = linked(&format!(
        "tags: {{ t: {{ {rules} }} }}\nservices:\n  a: {{ tags: [{{ t: {{ at: 10, in: 1.5 }} }}] }}\n  b: {{ tags: [{{ t: {{ at: 9, in: 1 }} }}] }}\n  \
         c: {{ tags: [{{ t: {{ at: -3, in: 1.5 }} }}] }}\n  d: {{ tags: [t] }}\nentries: {{ e: {{ needs: {{ x: {{ tag: t }} }} }} }}"
    ));
    assert_eq!(met(&wiring, None), expected);
}
