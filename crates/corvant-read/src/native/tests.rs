//! The whole format read once, fact by fact.

use crate::manifest;
use corvant_core::facts::{MeantFor, Named, Scalar, SuppliedKind, Target, Via};
use corvant_core::name::{Interner, Names};
use corvant_core::wiring::Manifest;

const WHOLE: &str = r#"
corvant: 1
module: timetable
about: Departure times for every stop
uses: [vehicles, clock]
settings:
  timetable.horizon_minutes: 90
  timetable.feed:
    about: where departures come from
    value: "file:${timetable.horizon_minutes}/${host.zone}"
    stages: { drill: "file:drill/${timetable.drill}" }
  timetable.feed_key: { required: true }
  timetable.lines: [red, "${timetable.blue}"]
contracts:
  DepartureSource: { about: x, extends: [Source], meant-for: one, keys: [platform, onboard] }
  Empty:
tags:
  departure-rule:
    about: x
    contract: DepartureRule
    carried-by-all: true
    collected-by: timetable.board
    at-least: 2
    attributes:
      priority: { kind: integer, required: true, unique: true, about: x }
      line: { kind: text, one-of: [red, 7, true] }
  free: {}
services:
  timetable.board:
    about: x
    type: velmora.timetable.DepartureBoard
    offers: [DepartureSource, "Store<*>"]
    key: platform
    default: true
    lifetime: request
    internal: true
    needs:
      clock: { contract: Clock, about: x }
      rules: { tag: departure-rule }
      horizon: { setting: timetable.horizon_minutes }
      fleet: { service: vehicles.fleet, lazy: true }
      voice: { contract: Announcer, key: platform, optional: true, via: setter, method: speakThrough }
      field: { service: a.b, via: property }
      made: { service: a.b, via: factory }
      found: { service: a.b, via: look-up }
    tags:
      - audit-trail
      - departure-rule: { priority: 10, line: red, weight: 1.5, strict: true }
    stages: [production, rehearsal]
  timetable.main: { alias-of: timetable.board }
  timetable.common: { template: true }
  timetable.night: { like: timetable.common }
  timetable.cached: { wraps: timetable.board, needs: { inner: { wrapped: true } } }
  timetable.made: { built-by: { service: timetable.factory, method: make }, needs: { x: { setting: s } } }
  timetable.mine: { replaces: vehicles.locator }
  timetable.bare:
choices:
  Announcer: { default: voice.platform, keys: { onboard: voice.cabin } }
providers:
  timetable.provider:
    about: x
    type: velmora.timetable.Provider
    registers: [timetable.board]
    register: { needs: { log: { service: log.main } } }
    start: { needs: { fleet: { service: vehicles.fleet } } }
    after: [vehicles.provider]
  timetable.other: {}
roster: [clock.provider, timetable.provider]
entries:
  stop-display:
    about: x
    type: velmora.web.StopDisplay
    at: GET /stops/{stop}
    lifetime: request
    needs: { board: { contract: DepartureSource, key: platform } }
supplied:
  services: [host.log]
  contracts: [HttpClient]
  settings: [host.zone]
  tags: [metric]
expect:
  - { contract: Clock, key: k, met-by: clock.system, type: velmora.clock.SystemClock, lifetime: process }
  - { service: clock.system }
allow:
  - { rule: unused-service, subject: timetable.legacy, reason: removed in spring, until: 2027-04-30 }
  - { rule: unused-service, subject: timetable.other }
"#;

fn whole() -> (Manifest, Names) {
    let interner = Interner::default();
    let read = manifest::from_text("a.wiring.yaml".to_owned(), WHOLE.to_owned(), &interner);
    assert!(read.facts.troubles.is_empty(), "{:#?}", read.facts.troubles);
    (read, interner.freeze())
}

/// Texts of names, to compare with.
struct Texts<'a>(&'a Manifest, &'a Names);

impl<'a> Texts<'a> {
    fn one(&self, named: Option<Named>) -> Option<&'a str> {
        named.map(|named| self.1.text(named.name))
    }

    fn all(&self, named: corvant_core::facts::Many<Named>) -> Vec<&'a str> {
        named.of(&self.0.facts.parts).iter().map(|named| self.1.text(named.name)).collect()
    }
}

#[test]
fn header_settings_and_contracts_are_read() {
    let (read, names) = whole();
    let texts = Texts(&read, &names);
    assert_eq!(texts.one(read.header.module), Some("timetable"));
    assert!(read.header.uses_given);
    assert_eq!(
        read.facts.uses.iter().map(|(_, module)| names.text(module.name)).collect::<Vec<_>>(),
        ["vehicles", "clock"]
    );
    let settings: Vec<_> = read
        .facts
        .settings
        .iter()
        .map(|setting| {
            (
                names.text(setting.setting.name),
                setting.value.is_some(),
                setting.required,
                texts.all(setting.references),
            )
        })
        .collect();
    assert_eq!(
        settings,
        [
            ("timetable.horizon_minutes", true, false, vec![]),
            ("timetable.feed", true, false, vec!["timetable.horizon_minutes", "host.zone"]),
            ("timetable.feed_key", false, true, vec![]),
            ("timetable.lines", true, false, vec!["timetable.blue"]),
        ]
    );
    let drill = read.facts.parts.stage_values[0];
    assert_eq!(
        (names.text(drill.stage.name), texts.all(drill.references)),
        ("drill", vec!["timetable.drill"])
    );
    let [contract, empty] = read.facts.contracts.as_slice() else { panic!("two contracts") };
    assert_eq!(
        (texts.all(contract.extends), contract.meant_for.map(|(meant, _)| meant)),
        (vec!["Source"], Some(MeantFor::One))
    );
    assert_eq!(texts.all(contract.keys), ["platform", "onboard"]);
    assert!(empty.extends.is_empty());
    // A reference has its own place inside the text.
    let reference = read.facts.settings[1].references.of(&read.facts.parts)[1];
    let span = reference.span.start as usize..reference.span.end as usize;
    assert_eq!(&read.source.text[span], "host.zone");
}

#[test]
fn tags_and_their_attributes_are_read() {
    let (read, names) = whole();
    let texts = Texts(&read, &names);
    let tag = read.facts.tags[0];
    assert_eq!(
        (texts.one(tag.contract), texts.one(tag.collected_by)),
        (Some("DepartureRule"), Some("timetable.board"))
    );
    assert_eq!((tag.carried_by_all, tag.at_least), (true, 2));
    let rules = tag.attributes.unwrap().of(&read.facts.parts);
    assert_eq!((rules[0].kind, rules[0].required, rules[0].unique), (Some(Scalar::Integer), true, true));
    assert_eq!((rules[1].kind, texts.all(rules[1].one_of)), (Some(Scalar::Text), vec!["red", "7", "true"]));
    assert!(read.facts.tags[1].attributes.is_none());
    let [plain, with_attributes] = read.facts.services[0].taggings.of(&read.facts.parts) else {
        panic!("two tags")
    };
    assert_eq!((names.text(plain.tag.name), plain.attributes.len()), ("audit-trail", 0));
    let attributes = with_attributes.attributes.of(&read.facts.parts);
    let kinds: Vec<_> =
        attributes.iter().map(|attribute| (names.text(attribute.value.name), attribute.kind)).collect();
    let expected =
        [("10", Scalar::Integer), ("red", Scalar::Text), ("1.5", Scalar::Number), ("true", Scalar::Boolean)];
    assert_eq!(kinds, expected);
}

#[test]
fn services_and_needs_are_read() {
    let (read, names) = whole();
    let texts = Texts(&read, &names);
    let board = read.facts.services[0];
    assert_eq!(names.text(board.id.name), "timetable.board");
    assert_eq!(texts.one(board.type_name), Some("velmora.timetable.DepartureBoard"));
    assert_eq!(texts.all(board.offers), ["DepartureSource", "Store<*>"]);
    assert_eq!((texts.one(board.key), texts.one(board.lifetime)), (Some("platform"), Some("request")));
    assert!(board.is_default && board.internal && !board.template);
    assert_eq!(texts.all(board.stages), ["production", "rehearsal"]);
    let needs = board.needs.of(&read.facts.parts);
    let target = |target: Target| match target {
        Target::Service(name) => format!("service {}", names.text(name)),
        Target::Contract(name) => format!("contract {}", names.text(name)),
        Target::Tag(name) => format!("tag {}", names.text(name)),
        Target::All(name) => format!("all {}", names.text(name)),
        Target::Setting(name) => format!("setting {}", names.text(name)),
        Target::Wrapped => "wrapped".to_owned(),
    };
    let seen: Vec<_> =
        needs.iter().map(|need| (names.text(need.slot.name), target(need.target), need.via)).collect();
    let expected = [
        ("clock", "contract Clock", Via::Constructor),
        ("rules", "tag departure-rule", Via::Constructor),
        ("horizon", "setting timetable.horizon_minutes", Via::Constructor),
        ("fleet", "service vehicles.fleet", Via::Constructor),
        ("voice", "contract Announcer", Via::Setter),
        ("field", "service a.b", Via::Property),
        ("made", "service a.b", Via::Factory),
        ("found", "service a.b", Via::LookUp),
    ];
    assert_eq!(seen, expected.map(|(slot, target, via)| (slot, target.to_owned(), via)));
    assert!(needs[3].lazy && !needs[3].optional);
    let voice = needs[4];
    assert!(voice.optional && !voice.lazy);
    assert_eq!(
        (texts.one(voice.key), voice.method.map(|method| names.text(method.name))),
        (Some("platform"), Some("speakThrough"))
    );
}

#[test]
fn the_other_forms_of_services_are_read() {
    let (read, names) = whole();
    let texts = Texts(&read, &names);
    let service =
        |id: &str| *read.facts.services.iter().find(|service| names.text(service.id.name) == id).unwrap();
    assert_eq!(texts.one(service("timetable.main").alias_of), Some("timetable.board"));
    assert!(service("timetable.common").template);
    assert_eq!(texts.one(service("timetable.night").like), Some("timetable.common"));
    assert_eq!(texts.one(service("timetable.cached").wraps), Some("timetable.board"));
    assert_eq!(texts.one(service("timetable.mine").replaces), Some("vehicles.locator"));
    let made = service("timetable.made").needs.of(&read.facts.parts);
    assert_eq!(made.len(), 2);
    let factory = made[1];
    assert_eq!((names.text(factory.slot.name), factory.via), ("built-by", Via::Factory));
    assert_eq!(factory.method.map(|method| names.text(method.name)), Some("make"));
    assert!(service("timetable.bare").needs.is_empty());
}

#[test]
fn choices_providers_entries_and_the_rest_are_read() {
    let (read, names) = whole();
    let texts = Texts(&read, &names);
    let facts = &read.facts;
    let choices: Vec<_> =
        facts.choices.iter().map(|choice| (texts.one(choice.key), names.text(choice.service.name))).collect();
    assert_eq!(choices, [(None, "voice.platform"), (Some("onboard"), "voice.cabin")]);
    let [provider, other] = facts.providers.as_slice() else { panic!("two providers") };
    assert_eq!(provider.registers.map(|names| texts.all(names)), Some(vec!["timetable.board"]));
    assert_eq!(
        (provider.register.len(), provider.start.len(), texts.all(provider.after)),
        (1, 1, vec!["vehicles.provider"])
    );
    assert!(other.registers.is_none());
    assert_eq!(texts.all(facts.rosters[0].providers), ["clock.provider", "timetable.provider"]);
    let entry = facts.entries[0];
    assert_eq!(
        (entry.at.map(|at| names.text(at)), texts.one(entry.lifetime)),
        (Some("GET /stops/{stop}"), Some("request"))
    );
    assert_eq!(entry.needs.len(), 1);
    let supplied: Vec<_> =
        facts.supplied.iter().map(|supplied| (supplied.kind, names.text(supplied.name.name))).collect();
    let expected = [
        (SuppliedKind::Service, "host.log"),
        (SuppliedKind::Contract, "HttpClient"),
        (SuppliedKind::Setting, "host.zone"),
        (SuppliedKind::Tag, "metric"),
    ];
    assert_eq!(supplied, expected);
    let [expectation, plain] = facts.expectations.as_slice() else { panic!("two expectations") };
    assert_eq!(
        (texts.one(expectation.contract), texts.one(expectation.met_by)),
        (Some("Clock"), Some("clock.system"))
    );
    assert_eq!(texts.one(plain.service), Some("clock.system"));
    let [allowance, bare] = facts.allowances.as_slice() else { panic!("two allowances") };
    assert_eq!(
        (names.text(allowance.rule.name), texts.one(allowance.until)),
        ("unused-service", Some("2027-04-30"))
    );
    assert!(bare.reason.is_none());
}

#[rstest::rstest]
#[case("2027-04-30", true)]
#[case("2028-02-29", true)]
#[case::no_leap_year("2027-02-29", false)]
#[case::no_such_day("2027-02-31", false)]
#[case::no_such_month("2027-13-01", false)]
#[case::day_nought("2027-01-00", false)]
#[case::short("2027-4-30", false)]
#[case::signed("+027-04-30", false)]
#[case::more("2027-04-30-1", false)]
fn a_day_is_one_that_there_is(#[case] text: &str, #[case] is_day: bool) {
    assert_eq!(super::is_day(text), is_day);
}
