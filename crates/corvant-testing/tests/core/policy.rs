//! What a workspace file decides for all modules.

use corvant_core::audit::{Options, audit};
use corvant_testing::{expect, messages, wiring};
use rstest::rstest;

#[test]
fn a_disabled_module_counts_for_nothing_and_explains_what_is_missing() {
    let text = r#"
//- corvant.toml
roster = ["crew.start", "web.start"]
          ^^^^^^^^^^^^ missing-provider crew.start
[workspace]
disabled = ["crew", "crww"]
                    ^^^^^^ missing-module workspace > crww
//- crew.wiring.yaml
corvant: 1
module: crew
settings: { crew.size: 4 }
services:
  crew.roster: { type: velmora.crew.Roster, offers: [Roster], needs: { gone: { service: crew.gone } } }
providers: { crew.start: {} }
entries: { crew-page: { needs: { x: { service: nowhere } } } }
//- web.wiring.yaml
corvant: 1
module: web
uses: [crew]
       ^^^^ missing-module web > crew
services:
  web.page:
    needs:
      a: { service: crew.roster }
                    ^^^^^^^^^^^ missing-service crew.roster
      b: { contract: Roster }
                     ^^^^^^ missing-implementation Roster
      c: { setting: crew.size }
                    ^^^^^^^^^ missing-setting crew.size
providers: { web.start: {} }
entries: { page: { needs: { x: { service: web.page } } } }
"#;
    expect(text);
    let found = messages(text);
    let of = |rule: &str| found.iter().find(|found| found.rule == rule).unwrap().text.clone();
    let enable = "enable the module crew, which the workspace disables: crew.roster (crew.wiring.yaml:5)";
    assert!(of("missing-service").contains(&format!("{enable} is in it")), "{}", of("missing-service"));
    assert!(of("missing-implementation").contains(&format!("{enable} offers it")));
    assert!(of("missing-setting").contains("enable the module crew"));
    assert!(of("missing-provider").contains("enable the module crew"));
}

#[rstest]
#[case::forbid("forbid", "error", "velmora.First")]
#[case::first("first", "note", "velmora.First")]
#[case::last("last", "note", "velmora.Last")]
fn the_policy_decides_which_of_two_definitions_counts(
    #[case] policy: &str,
    #[case] severity: &str,
    #[case] counting: &str,
) {
    let found = messages(&format!(
        "//- corvant.toml\npolicy.same-id = '{policy}'\n\
         //- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: {{ x: {{ type: velmora.First }} }}\n\
         //- b.wiring.yaml\ncorvant: 1\nmodule: b\nservices: {{ x: {{ type: velmora.Second }} }}\n\
         //- c.wiring.yaml\ncorvant: 1\nmodule: c\nservices: {{ x: {{ type: velmora.Last }} }}\n\
         entries: {{ e: {{ needs: {{ x: {{ service: x }} }} }} }}\n\
         expect: [{{ service: x, type: velmora.None }}]\n"
    ));
    let of = |rule: &str| found.iter().find(|found| found.rule == rule).unwrap();
    assert_eq!(of("duplicate-service").severity, severity);
    assert!(of("duplicate-service").text.starts_with("x is defined 3 times"));
    assert!(of("unmet-expectation").text.contains(&format!("built from {counting}")), "{found:#?}");
    assert_eq!(found.len(), 2);
}

#[test]
fn lifetimes_are_in_the_order_that_the_workspace_gives() {
    expect(
        r#"
//- corvant.toml
lifetimes = { order = ["city", "line", "tram", "trip"], default = "line" }
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.city: { lifetime: city, needs: { x: { service: a.unsaid } } }
                                                   ^^^^^^^^ short-lived-need a.city > a.unsaid
  a.unsaid: { needs: { x: { service: a.tram } } }
                                     ^^^^^^ short-lived-need a.unsaid > a.tram
  a.tram: { lifetime: tram, needs: { x: { service: a.line }, y: { service: a.trip, lazy: true } } }
  a.line: { lifetime: line }
  a.trip: { lifetime: trip, needs: { x: { service: a.line } } }
  a.other: { lifetime: process, needs: { x: { service: a.trip } } }
entries:
  e: { needs: { a: { service: a.city }, b: { service: a.other } } }
"#,
    );
}

#[test]
fn a_stage_may_have_choices_and_a_roster_of_its_own() {
    let text = r#"
//- corvant.toml
[roster]
drill = ["b.start", "a.start"]
production = ["a.start", "b.start"]
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.one: { type: velmora.One, offers: [Answer] }
  a.two: { type: velmora.Two, offers: [Answer] }
choices:
  Answer: { stages: { drill: { default: a.one }, production: { default: a.none } } }
                                                                        ^^^^^^ choice-mismatch Answer
providers:
  a.start: {}
entries: { e: { needs: { a: { contract: Answer } } } }
                                        ^^^^^^ ambiguous-implementation Answer
//- b.wiring.yaml
corvant: 1
module: b
providers:
  b.start: { register: { needs: { a: { service: a.one } } } }
                                                ^^^^^ needed-too-early b.start > a.one
"#;
    expect(text);
    let stages = messages(text).into_iter().map(|found| (found.rule, found.holds.unwrap_or_default()));
    let mut stages: Vec<_> = stages.collect();
    stages.sort();
    let names = |stage: &str| vec![stage.to_owned()];
    assert_eq!(
        stages,
        [
            ("ambiguous-implementation", names("-")),
            ("choice-mismatch", names("production")),
            ("needed-too-early", names("drill")),
        ]
    );
}

#[test]
fn a_stage_of_the_workspace_file_gives_settings_their_values() {
    expect(
        r#"
//- corvant.toml
[stages.production]
web.feed.address = "https:${web.host}"
web.host = "velmora"
[stages.drill]
"web.host" = "drill"
web.spare = 1
    ^^^^^ unused-setting web.spare
[stages.idle]
//- web.wiring.yaml
corvant: 1
module: web
settings:
  web.feed.address: { required: true }
services:
  web.page: { needs: { address: { setting: web.feed.address } } }
                                           ^^^^^^^^^^^^^^^^ missing-setting web.feed.address
entries:
  page: { needs: { x: { service: web.page } } }
"#,
    );
}

#[rstest]
#[case::milder("unused-setting = 'note'", "note web.a")]
#[case::stricter("unused-setting = 'error'", "error web.a")]
#[case::off("unused-setting = 'off'", "")]
#[case::a_note_of_an_error_stays_a_note("service-cycle = 'warning'", "warning web.a, note web.b > web.c")]
fn the_workspace_decides_how_bad_a_finding_is(#[case] rules: &str, #[case] expected: &str) {
    let found = messages(&format!(
        "//- corvant.toml\nrules.{rules}\n\
         //- web.wiring.yaml\ncorvant: 1\nmodule: web\nsettings: {{ web.a: 1 }}\n\
         services:\n  web.b: {{ needs: {{ x: {{ service: web.c, lazy: true }} }} }}\n  web.c: {{ needs: {{ x: {{ service: web.b }} }} }}\n\
         entries: {{ e: {{ needs: {{ x: {{ service: web.b }} }} }} }}\n"
    ));
    let is_asked = |severity: &str| {
        expected.contains("service-cycle") || severity != "note" || expected.contains("web.b")
    };
    let found: Vec<String> = found
        .iter()
        .filter(|found| {
            found.rule == "unused-setting" || is_asked(found.severity) && expected.contains(" > ")
        })
        .map(|found| format!("{} {}", found.severity, found.subject))
        .collect();
    assert_eq!(found.join(", "), expected);
}

#[test]
fn an_allowance_for_a_rule_that_does_not_run_is_not_stale() {
    let text = "//- corvant.toml\nrules.unused-setting = 'off'\n[[allow]]\nrule = 'unused-setting'\nsubject = 'a'\n\
                //- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: {} }\n";
    assert_eq!(messages(text), []);
}

/// Kind and subject of every blind spot.
fn blind_spots(text: &str) -> Vec<String> {
    let files = corvant_testing::files(text);
    let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let report = audit(&wiring, &Options::default());
    report
        .blind_spots
        .iter()
        .map(|spot| format!("{} {}: {}", spot.kind.word(), spot.subject, spot.message))
        .collect()
}

#[rstest]
#[case::nothing("entries: { e: {} }", "")]
#[case::no_entries("services: { a: {} }", "no-entries unused-service: no entry is defined")]
#[case::no_roster("providers: { p: {} }", "no-roster roster: providers are defined and no roster lists them")]
#[case::factory(
    "services: { f: {}, a: { built-by: { service: f } }, b: { built-by: { service: f } } }\nentries: { e: {} }",
    "undeclared-factory-needs f: it builds 2 services without a word"
)]
#[case::factory_that_needs_nothing(
    "services: { f: {}, a: { built-by: { service: f }, needs: {} } }\nentries: { e: {} }",
    ""
)]
#[case::factory_by_a_model(
    "services: { f: {}, m: { template: true, needs: {} }, a: { like: m, built-by: { service: f } } }\nentries: { e: {} }",
    ""
)]
#[case::lifetime(
    "services: { a: { lifetime: proces } }\nentries: { e: {} }",
    "unordered-lifetime proces: this lifetime has no place in the order (process, request): who holds whom too long is \
     not checked for it; perhaps process is meant"
)]
#[case::supplied(
    "supplied: { services: [host.log], tags: [t, t] }\nentries: { e: {} }",
    "supplied supplied: 2 names are assumed to be supplied by the host platform: host.log and t"
)]
fn what_cannot_be_seen_is_said(#[case] sections: &str, #[case] expected: &str) {
    let found = blind_spots(&format!("//- a.wiring.yaml\ncorvant: 1\nmodule: a\n{sections}\n"));
    match found.as_slice() {
        [] => assert_eq!(expected, ""),
        [only] => assert!(!expected.is_empty() && only.starts_with(expected), "{only}"),
        several => panic!("{several:#?}"),
    }
}

/// What the only entry's need of a contract is given, with why.
fn given(policy: &str, services: &str, need: &str) -> String {
    let text = format!(
        "corvant: 1\nmodule: m\nservices:\n{services}\nentries:\n  e: {{ needs: {{ x: {need} }} }}\n"
    );
    let policy = format!("[policy]\n{policy}\n");
    let wiring = wiring([("corvant.toml", policy.as_str()), ("m.wiring.yaml", text.as_str())]);
    let need = corvant_core::wiring::NeedIndex::new(wiring.facts.entries[0].needs.range().start);
    let gets = corvant_core::answers::View::new(&wiring, None).gets(need);
    format!("{} {}", gets.service.unwrap_or_default(), gets.reason.kind().word())
}

const THREE: &str = "  a: { offers: [C] }\n  b: { offers: [C] }\n  c: { offers: [C] }";
const TWO_DEFAULTS: &str =
    "  a: { offers: [C] }\n  b: { offers: [C], default: true }\n  c: { offers: [C], default: true }";
const ONE_DEFAULT: &str = "  a: { offers: [C], default: true }\n  b: { offers: [C] }";
const KEYS: &str = "  a: { offers: [C], key: k }\n  b: { offers: [C], key: k }";
const WRAPPED: &str = "  a: { offers: [C] }\n  b: { offers: [C] }\n  c: { wraps: a }";

#[rstest]
#[case::forbidden("", THREE, "{ contract: C }", " ambiguous")]
#[case::first("same-contract = 'first'", THREE, "{ contract: C }", "a first")]
#[case::last("same-contract = 'last'", THREE, "{ contract: C }", "c last")]
#[case::a_default_goes_first("same-contract = 'last'", ONE_DEFAULT, "{ contract: C }", "a default")]
#[case::the_first_default("same-contract = 'first'", TWO_DEFAULTS, "{ contract: C }", "b first")]
#[case::the_last_default("same-contract = 'last'", TWO_DEFAULTS, "{ contract: C }", "c last")]
#[case::under_a_key("same-contract = 'last'", KEYS, "{ contract: C, key: k }", "b key")]
#[case::by_what_is_wrapped("same-contract = 'first'", WRAPPED, "{ contract: C }", "c first")]
#[case::default_gives_way("default-unless-offered = true", ONE_DEFAULT, "{ contract: C }", "b only")]
#[case::default_stays(
    "default-unless-offered = true",
    "  a: { offers: [C], default: true }",
    "{ contract: C }",
    "a only"
)]
#[case::others_clash(
    "default-unless-offered = true",
    "  a: { offers: [C], default: true }\n  b: { offers: [C] }\n  c: { offers: [C] }",
    "{ contract: C }",
    " ambiguous"
)]
#[case::both(
    "default-unless-offered = true\nsame-contract = 'last'",
    "  a: { offers: [C], default: true }\n  b: { offers: [C] }\n  c: { offers: [C] }",
    "{ contract: C }",
    "c last"
)]
#[case::all_but_defaults("default-unless-offered = true", ONE_DEFAULT, "{ all: C }", " offered")]
fn a_workspace_says_which_offer_counts(
    #[case] policy: &str,
    #[case] services: &str,
    #[case] need: &str,
    #[case] expected: &str,
) {
    assert_eq!(given(policy, services, need), expected);
}

#[rstest]
#[case::two(THREE, "{ contract: C }")]
#[case::two_defaults(TWO_DEFAULTS, "{ contract: C }")]
#[case::one_key(KEYS, "{ contract: C, key: k }")]
fn what_the_workspace_decides_is_no_clash(#[case] services: &str, #[case] need: &str) {
    let text = |policy: &str| {
        format!(
            "//- corvant.toml\n[policy]\nsame-contract = '{policy}'\n//- m.wiring.yaml\ncorvant: 1\nmodule: m\nservices:\n{services}\n\
             entries:\n  e: {{ needs: {{ x: {need}, a: {{ service: a }}, b: {{ service: b }}, c: {{ service: c, optional: true }} }} }}\n"
        )
    };
    assert_eq!(messages(&text("forbid")).len(), 1);
    assert_eq!(messages(&text("last")), []);
    assert_eq!(messages(&text("first")), []);
}
