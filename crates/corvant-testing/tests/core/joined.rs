//! Facts of many files joined into one are the facts of one file that says the same.

use corvant_core::facts::{Facts, Many, Named, Target};
use corvant_core::wiring::Wiring;
use proptest::prelude::*;

/// One file of each kind of fact, with names of its own.
fn file(number: usize) -> String {
    format!(
        r#"
corvant: 1
module: m{number}
settings:
  set{number}: {{ value: "${{other{number}}}", stages: {{ drill: "${{third{number}}}" }} }}
contracts:
  C{number}: {{ extends: [Base{number}, Wide{number}], keys: [k{number}, l{number}] }}
tags:
  t{number}: {{ attributes: {{ a{number}: {{ kind: integer, required: true }}, b{number}: {{ one-of: [x{number}, y{number}] }} }} }}
services:
  s{number}:
    offers: [C{number}, D{number}]
    stages: [drill, night]
    tags: [t{number}: {{ a{number}: 1, b{number}: x{number} }}]
    needs: {{ one{number}: {{ service: r{number} }}, two{number}: {{ setting: set{number} }} }}
  r{number}: {{ needs: {{ three{number}: {{ tag: t{number} }} }} }}
providers:
  p{number}: {{ registers: [s{number}, r{number}], after: [q{number}], register: {{ needs: {{ in{number}: {{ service: s{number} }} }} }}, start: {{ needs: {{ at{number}: {{ service: r{number} }} }} }} }}
entries:
  e{number}: {{ needs: {{ use{number}: {{ service: s{number} }} }} }}
"#
    )
}

fn wiring(files: &[String]) -> Wiring {
    let named: Vec<(String, &str)> =
        files.iter().enumerate().map(|(at, text)| (format!("f{at:03}.wiring.yaml"), text.as_str())).collect();
    corvant_testing::wiring(named.iter().map(|(path, text)| (path.as_str(), *text)))
}

fn texts(wiring: &Wiring, many: Many<Named>) -> Vec<&str> {
    many.of(&wiring.facts.parts).iter().map(|named| wiring.text(named.name)).collect()
}

/// Every range of every item leads to the item's own elements.
fn assert_ranges_are_their_own(wiring: &Wiring, at: usize, number: usize) {
    let facts: &Facts = &wiring.facts;
    let text = |name| wiring.text(name);
    let of = |words: &[&str]| words.iter().map(|word| format!("{word}{number}")).collect::<Vec<_>>();

    let contract = &facts.contracts[at];
    assert_eq!(texts(wiring, contract.extends), of(&["Base", "Wide"]));
    assert_eq!(texts(wiring, contract.keys), of(&["k", "l"]));

    let rules = facts.tags[at].attributes.expect("it says what attributes").of(&facts.parts);
    assert_eq!(rules.iter().map(|rule| text(rule.attribute.name)).collect::<Vec<_>>(), of(&["a", "b"]));
    assert_eq!(texts(wiring, rules[1].one_of), of(&["x", "y"]));

    let setting = &facts.settings[at];
    assert_eq!(texts(wiring, setting.references), of(&["other"]));
    let staged = setting.stages.of(&facts.parts);
    assert_eq!(texts(wiring, staged[0].references), of(&["third"]));

    let (service, other) = (&facts.services[2 * at], &facts.services[2 * at + 1]);
    assert_eq!(texts(wiring, service.offers), of(&["C", "D"]));
    assert_eq!(texts(wiring, service.stages), ["drill", "night"]);
    let slots = |needs: Many<corvant_core::facts::Need>| {
        needs.of(&facts.parts).iter().map(|need| text(need.slot.name)).collect::<Vec<_>>()
    };
    assert_eq!(slots(service.needs), of(&["one", "two"]));
    assert_eq!(slots(other.needs), of(&["three"]));
    let tagging = service.taggings.of(&facts.parts)[0];
    let attributes = tagging.attributes.of(&facts.parts);
    assert_eq!(attributes.iter().map(|one| text(one.attribute.name)).collect::<Vec<_>>(), of(&["a", "b"]));

    let provider = &facts.providers[at];
    assert_eq!(texts(wiring, provider.registers.expect("it has a list")), of(&["s", "r"]));
    assert_eq!(texts(wiring, provider.after), of(&["q"]));
    assert_eq!(slots(provider.register), of(&["in"]));
    assert_eq!(slots(provider.start), of(&["at"]));
    assert_eq!(slots(facts.entries[at].needs), of(&["use"]));

    // And every item knows the file that it came from.
    for source in [service.source, contract.source, setting.source, provider.source, tagging.source] {
        assert_eq!(source.index(), at);
    }
    let need = service.needs.of(&facts.parts)[0];
    assert_eq!(need.source.index(), at);
    assert!(matches!(need.target, Target::Service(name) if text(name) == format!("r{number}")));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn ranges_of_joined_facts_lead_to_their_own_elements(
        numbers in proptest::collection::btree_set(0_usize..1_000, 1..40),
        empty in any::<bool>(),
    ) {
        let numbers: Vec<usize> = numbers.into_iter().collect();
        let files: Vec<String> = numbers.iter().map(|&number| file(number)).collect();
        let wiring = wiring(&files);
        prop_assert_eq!(wiring.facts.services.len(), 2 * files.len());
        for (at, &number) in numbers.iter().enumerate() {
            assert_ranges_are_their_own(&wiring, at, number);
        }
        // A file that says nothing moves nothing.
        if empty {
            let mut more = files.clone();
            more.push("corvant: 1\nmodule: empty\n".to_owned());
            let wider = self::wiring(&more);
            prop_assert_eq!(wider.facts.parts.needs.len(), wiring.facts.parts.needs.len());
            prop_assert_eq!(wider.facts.parts.named.len(), wiring.facts.parts.named.len());
        }
    }
}

#[test]
fn a_disabled_modules_facts_are_joined_apart() {
    let files = [("corvant.toml", "[workspace]\ndisabled = [\"m1\"]\n".to_owned())].into_iter().chain([
        ("a.wiring.yaml", file(0)),
        ("b.wiring.yaml", file(1)),
        ("c.wiring.yaml", file(2)),
    ]);
    let files: Vec<(&str, String)> = files.collect();
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (*path, text.as_str())));
    let ids = |facts: &Facts| {
        facts.services.iter().map(|service| wiring.text(service.id.name).to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(ids(&wiring.facts), ["s0", "r0", "s2", "r2"]);
    assert_eq!(ids(&wiring.dormant), ["s1", "r1"]);
    let offers = wiring.dormant.services[0].offers.of(&wiring.dormant.parts);
    assert_eq!(offers.iter().map(|offer| wiring.text(offer.name)).collect::<Vec<_>>(), ["C1", "D1"]);
}
