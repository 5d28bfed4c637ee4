//! Answers: show, find, why, order, impact and the picture of the graph.

use corvant_core::answers::find::find;
use corvant_core::answers::impact::{Affected, Impact, impact};
use corvant_core::answers::order::{Order, order};
use corvant_core::answers::picture::{Direction, Drawn, Frame, Manner, Picture, Sort, StandsFor, picture};
use corvant_core::answers::show::{Fact, Sheet, show};
use corvant_core::answers::terms::{Aim, Thing, ThingKind};
use corvant_core::answers::why::{Nearest, Why, why};
use corvant_core::answers::{Kind, Subject, Unknown, View, known_names, look_up};
use corvant_core::audit::{Options, Report, audit};
use corvant_core::wiring::Wiring;
use corvant_render::answers::{impact as impact_words, show as show_words, words};
use rstest::rstest;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::fmt::Write;

/// Two modules: a board that comes to need a clock, a choice by stage, a tag, a cycle, lazy and optional needs.
const NETWORK: &str = r#"
//- clock.wiring.yaml
corvant: 1
module: clock
contracts: { Clock: {} }
choices: { Clock: { default: clock.quartz, stages: { drill: { default: clock.fake } } } }
services:
  clock.quartz: { type: velmora.Quartz, offers: [Clock], lifetime: process, needs: { tick: { setting: clock.tick } } }
  clock.fake: { type: velmora.Fake, offers: [Clock] }
settings: { clock.tick: 5 }
providers:
  clock.provider: { registers: [clock.quartz, clock.fake] }
//- timetable.wiring.yaml
corvant: 1
module: timetable
uses: [clock]
tags: { rule: {} }
services:
  timetable.board:
    type: velmora.Board
    needs:
      clock: { contract: Clock }
      rules: { tag: rule }
      log: { service: timetable.log, optional: true }
      history: { service: timetable.history, lazy: true }
  timetable.base: { template: true, lifetime: request, needs: { log: { service: timetable.log } } }
  timetable.late: { like: timetable.base, tags: [rule: { priority: 1 }] }
  timetable.early: { tags: [rule], needs: { clock: { service: clock.old } } }
  timetable.log: { type: velmora.Log }
  timetable.history: { needs: { log: { service: timetable.log } } }
  clock.old: { alias-of: clock.quartz }
  a: { needs: { b: { service: b } } }
  b: { needs: { a: { service: a }, gone: { service: nowhere } } }
  lonely: {}
entries:
  departures: { at: GET /departures, needs: { board: { service: timetable.board } } }
  cycle: { needs: { a: { service: a } } }
providers:
  timetable.provider: { start: { needs: { board: { service: timetable.board } } } }
"#;

fn wiring(text: &str) -> Wiring {
    let files = corvant_testing::files(text);
    corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())))
}

fn subject(view: &View<'_>, name: &str) -> Subject {
    look_up(view.wiring, name, None).unwrap_or_else(|unknown| panic!("{name}: {unknown:?}"))
}

/// A sheet with the words for its facts, by section.
fn shown(name: &str, stage: Option<&str>) -> BTreeMap<&'static str, Vec<String>> {
    let wiring = wiring(NETWORK);
    let stage = stage.map(|stage| wiring.names.find(stage).unwrap());
    let view = View::new(&wiring, stage);
    told(
        &wiring,
        &show(&view, subject(&view, name), &audit(&wiring, &Options { stage, ..Options::default() })),
    )
}

fn told(wiring: &Wiring, sheet: &Sheet) -> BTreeMap<&'static str, Vec<String>> {
    let lines =
        |facts: Vec<&Fact>| facts.into_iter().map(|fact| show_words::line(sheet, wiring, fact)).collect();
    sheet.sections().into_iter().map(|(section, facts)| (section.word(), lines(facts))).collect()
}

fn section<'s>(sheet: &'s BTreeMap<&str, Vec<String>>, title: &str) -> Vec<&'s str> {
    sheet.get(title).into_iter().flatten().map(String::as_str).collect()
}

#[rstest]
#[case::a_contract_by_choice("timetable.board", "needs", &[
    "clock: contract Clock → clock.quartz, chosen in clock.wiring.yaml:4",
    "rules: all that carry rule, 2 carry it",
    "log: timetable.log; optional",
    "history: timetable.history; lazy",
])]
#[case::who_needs_it("timetable.board", "needed by", &["entry departures, slot board", "provider timetable.provider, slot board"])]
#[case::who_it_serves("timetable.log", "serves", &["provider timetable.provider", "entry departures (GET /departures)"])]
#[case::another_stage("timetable.board", "differs", &["in drill: clock gets clock.fake"])]
#[case::through_an_alias("timetable.early", "needs", &["clock: clock.old → clock.quartz, clock.old is an alias"])]
#[case::collected("timetable.early", "needed by", &["service timetable.board, slot rules, as one of all that carry rule"])]
#[case::attributes("timetable.late", "tags", &["rule (priority: 1), collected by timetable.board"])]
#[case::inherited("timetable.late", "lifetime", &["request, from timetable.base"])]
#[case::needs_of_the_template("timetable.late", "needs", &["log: timetable.log"])]
#[case::a_template("timetable.base", "defined", &["in module timetable: a template, never built"])]
#[case::other_names("clock.quartz", "also called", &["clock.old"])]
#[case::what_an_alias_is("clock.old", "alias of", &["clock.quartz"])]
#[case::the_winner("clock.quartz", "offers", &["Clock: given to who needs it, chosen in clock.wiring.yaml:4"])]
#[case::the_loser("clock.fake", "offers", &["Clock: not given, clock.quartz is (chosen in clock.wiring.yaml:4)"])]
#[case::a_missing_need("b", "needs", &["a: a", "gone: nowhere, not found"])]
#[case::choices("Clock", "choices", &["clock.quartz", "clock.fake, in drill"])]
#[case::a_contract_in_stages("Clock", "differs", &["in drill: gives clock.fake"])]
#[case::a_contract_is_needed("Clock", "needed by", &["service timetable.board, slot clock: gets clock.quartz, chosen in clock.wiring.yaml:4"])]
#[case::a_tag("rule", "carried by", &["timetable.late (priority: 1)", "timetable.early"])]
#[case::a_setting("clock.tick", "value", &["5"])]
#[case::a_setting_is_needed("clock.tick", "needed by", &["service clock.quartz, slot tick: it has a value"])]
#[case::a_provider("clock.provider", "registers", &["clock.quartz", "clock.fake"])]
#[case::a_module("clock", "used by", &["timetable"])]
#[case::an_entry("departures", "at", &["GET /departures"])]
fn a_sheet_says(#[case] name: &str, #[case] title: &str, #[case] expected: &[&str]) {
    let sheet = shown(name, None);
    assert_eq!(section(&sheet, title), expected, "{sheet:#?}");
}

#[test]
fn a_sheet_is_that_of_the_stage() {
    let sheet = shown("timetable.board", Some("drill"));
    assert_eq!(
        section(&sheet, "needs")[0],
        "clock: contract Clock → clock.fake, chosen in clock.wiring.yaml:4"
    );
    assert!(section(&sheet, "differs").is_empty());
}

#[test]
fn a_sheet_has_the_findings_about_it() {
    let found = shown("a", None);
    let found = section(&found, "findings");
    assert!(found.iter().any(|text| text.starts_with("error service-cycle: ")), "{found:?}");
    let found = shown("b", None);
    assert!(section(&found, "findings").iter().any(|text| text.contains("missing-service")));
    assert!(section(&shown("timetable.log", None), "findings").is_empty());
}

#[rstest]
#[case::of_two_definitions(
    "corvant: 1\nmodule: m\nservices:\n  one: {}\n  second: { replaces: one }\nentries: { e: { needs: { x: { service: one } } } }\n",
    "one",
    "replaced by second (m.wiring.yaml:5)"
)]
#[case::in_other_stages_only(
    "corvant: 1\nmodule: m\nservices:\n  one: { stages: [drill] }\n",
    "one",
    "not in this stage, only in drill"
)]
#[case::wrapped(
    "corvant: 1\nmodule: m\nservices:\n  one: {}\n  two: { wraps: one, needs: { inner: { wrapped: true } } }\n",
    "one",
    "this one counts"
)]
fn a_sheet_says_which_definition_counts(#[case] text: &str, #[case] name: &str, #[case] expected: &str) {
    let wiring = wiring(&format!("//- m.wiring.yaml\n{text}"));
    let view = View::new(&wiring, None);
    let sheet = show(&view, subject(&view, name), &audit(&wiring, &Options::default()));
    let sheet = told(&wiring, &sheet);
    let defined = section(&sheet, "defined");
    assert!(defined.iter().any(|text| text.contains(expected)), "{defined:?}");
}

#[test]
fn names_that_are_not_there_and_names_of_several_kinds() {
    let wiring = wiring(
        "//- m.wiring.yaml\ncorvant: 1\nmodule: same\nservices:\n  same: { type: velmora.Same }\n  other: { needs: { x: { service: gone.far } } }\n",
    );
    let view = View::new(&wiring, None);
    assert_eq!(look_up(view.wiring, "same", None), Err(Unknown::Several(vec![Kind::Service, Kind::Module])));
    assert_eq!(
        look_up(view.wiring, "same", Some(Kind::Module)).map(|subject| subject.kind),
        Ok(Kind::Module)
    );
    let nothing = |near: &[(Kind, &str)], sought, type_of: &[&str]| Unknown::Nothing {
        near: near.iter().map(|&(kind, name)| (kind, name.to_owned())).collect(),
        sought,
        type_of: type_of.iter().map(|&name| name.to_owned()).collect(),
    };
    assert_eq!(look_up(view.wiring, "othr", None), Err(nothing(&[(Kind::Service, "other")], 0, &[])));
    assert_eq!(look_up(view.wiring, "gone.far", None), Err(nothing(&[], 1, &[])));
    assert_eq!(look_up(view.wiring, "velmora.Same", None), Err(nothing(&[], 0, &["same"])));
    assert_eq!(look_up(view.wiring, "the", None), Err(nothing(&[(Kind::Service, "other")], 0, &[])));
}

#[test]
fn every_mention_is_found_in_the_order_of_the_files() {
    let wiring = wiring(NETWORK);
    let mentions = |wanted: &str| -> Vec<String> {
        let found = find(&wiring, None, |name| name == wanted);
        let line = |mention: &corvant_core::answers::find::Mention| {
            let source = &wiring.sources[mention.source.index()];
            let by = mention.by.map_or("", |by| wiring.text(by));
            format!(
                "{}:{} {} {} {by}",
                source.path,
                source.position(mention.span.start).line,
                mention.act.word(),
                mention.kind.word()
            )
        };
        found.iter().map(line).collect()
    };
    assert_eq!(
        mentions("clock.quartz"),
        [
            "clock.wiring.yaml:4 chosen service Clock",
            "clock.wiring.yaml:6 defined service ",
            "clock.wiring.yaml:10 registered service clock.provider",
            "timetable.wiring.yaml:18 aliased service clock.old",
        ]
    );
    // What a template gives is written once.
    assert_eq!(mentions("request"), ["timetable.wiring.yaml:13 lived for lifetime timetable.base"]);
    assert_eq!(mentions("timetable.log").len(), 4);
    assert_eq!(mentions("rule").len(), 4);
    assert_eq!(mentions("nothing"), [""; 0]);
}

/// What each line says is of the stage that it names, or of all.
const STAGED: &str = "\
//- m.wiring.yaml
corvant: 1
module: m
choices:
  Clock:
    default: clock
    stages:
      drill: { default: clock }
      prod: { default: clock }
services:
  clock: { offers: [Clock] }
  drill.user: { stages: [drill], needs: { clock: { service: clock } } }
  prod.user: { stages: [prod], needs: { clock: { service: clock } } }
settings:
  horizon: 90
  feed:
    value: plain
    stages:
      drill: '${horizon} min'
      prod: '${horizon} s'
";

#[rstest]
#[case::of_all(None, "clock", &[5, 7, 8, 10, 11, 12])]
#[case::of_a_stage(Some("drill"), "clock", &[5, 7, 10, 11])]
#[case::of_another(Some("prod"), "clock", &[5, 8, 10, 12])]
#[case::a_setting(None, "horizon", &[14, 18, 19])]
#[case::a_setting_of_a_stage(Some("prod"), "horizon", &[14, 19])]
#[case::a_service_of_another_stage(Some("drill"), "prod.user", &[])]
#[case::the_stage_itself(Some("drill"), "drill", &[11, 18])]
fn what_is_said_of_other_stages_alone_is_not_found(
    #[case] stage: Option<&str>,
    #[case] wanted: &str,
    #[case] expected: &[usize],
) {
    let wiring = wiring(STAGED);
    let stage = stage.map(|stage| wiring.names.find(stage).unwrap());
    let found = find(&wiring, stage, |name| name == wanted);
    let lines = found.iter().map(|mention| {
        let position = wiring.sources[mention.source.index()].position(mention.span.start);
        position.line as usize
    });
    assert_eq!(lines.collect::<Vec<_>>(), expected);
}

fn asked_why(text: &str, from: &str, to: &str, further: usize) -> Why {
    let wiring = wiring(text);
    let view = View::new(&wiring, None);
    why(&view, subject(&view, from), subject(&view, to), further)
}

fn names(why: &Why) -> Vec<String> {
    let chain = |chain: &Vec<corvant_core::answers::why::ChainLink>| {
        let first = chain.first().map(|step| words::thing(&step.from));
        first
            .into_iter()
            .chain(chain.iter().map(|step| words::thing(&step.to)))
            .collect::<Vec<_>>()
            .join(" > ")
    };
    why.chains.iter().map(chain).collect()
}

#[rstest]
#[case::through_a_contract("departures", "clock.quartz", 0, &["departures > timetable.board > clock.quartz"], 2)]
#[case::further_ones("departures", "clock.quartz", 5, &[
    "departures > timetable.board > clock.quartz",
    "departures > timetable.board > all that carry rule > timetable.early > clock.quartz"], 2)]
#[case::to_a_contract("departures", "Clock", 0, &["departures > timetable.board > clock.quartz"], 2)]
#[case::to_a_tag("timetable.board", "rule", 0, &["timetable.board > all that carry rule"], 1)]
#[case::between_modules("timetable", "clock", 0, &["timetable.board > clock.quartz"], 2)]
#[case::within_a_cycle("a", "b", 3, &["a > b"], 1)]
#[case::to_itself("a", "a", 0, &["a > b > a"], 1)]
fn chains_are_found_shortest_first(
    #[case] from: &str,
    #[case] to: &str,
    #[case] further: usize,
    #[case] expected: &[&str],
    #[case] least: u64,
) {
    let answer = asked_why(NETWORK, from, to, further);
    assert_eq!(names(&answer), expected);
    assert!(answer.count >= least, "{answer:#?}");
    let first = &answer.chains[0][0];
    assert!(first.place.is_some());
}

#[test]
fn chains_are_counted_without_walking_them() {
    // Thirty layers of two: 2^30 chains.
    let mut text = "//- m.wiring.yaml\ncorvant: 1\nmodule: m\nservices:\n".to_owned();
    for (layer, half) in (0..60).map(|number| (number / 2, ["a", "b"][number % 2])) {
        let next = layer + 1;
        writeln!(
            text,
            "  {half}{layer}: {{ needs: {{ x: {{ service: a{next} }}, y: {{ service: b{next} }} }} }}"
        )
        .expect("writing to a String");
    }
    text += "  a30: { needs: { end: { service: end } } }\n  b30: { needs: { end: { service: end } } }\n  end: {}\n";
    let answer = asked_why(&text, "a0", "end", 3);
    assert_eq!((answer.chains.len(), answer.count, answer.at_least), (4, 1 << 30, false));
}

#[test]
fn without_a_chain_the_nearest_thing_is_said() {
    let reversed = asked_why(NETWORK, "clock.quartz", "departures", 0);
    assert!(matches!(&reversed.nearest, Some(Nearest::Reversed(steps)) if steps.len() == 2), "{reversed:#?}");
    let apart = asked_why(NETWORK, "departures", "lonely", 0);
    assert!(matches!(apart.nearest, Some(Nearest::Apart { users: 0, .. })), "{apart:#?}");
    let broken = asked_why(NETWORK, "departures", "clock.fake", 0);
    let Some(Nearest::BreaksOff { chain, need }) = broken.nearest else { panic!("{broken:#?}") };
    assert_eq!(chain.len(), 1);
    assert_eq!(
        (need.holder.name.as_str(), need.slot.as_str(), need.gets.service.as_deref()),
        ("timetable.board", "clock", Some("clock.quartz"))
    );
    assert_eq!(need.aim, Aim::Contract("Clock".to_owned(), None));
}

fn asked_order(text: &str, entry: Option<&str>) -> Order {
    let wiring = wiring(text);
    let view = View::new(&wiring, None);
    let entry = entry.map(|entry| {
        wiring.facts.entries.iter().position(|one| wiring.text(one.id.name) == entry).expect("an entry")
    });
    order(&view, entry)
}

fn built(steps: &[corvant_core::answers::order::Built]) -> Vec<String> {
    steps.iter().map(|step| step.services.join("+")).collect()
}

#[test]
fn dependencies_come_first_and_ties_by_name() {
    let order = asked_order(NETWORK, Some("departures"));
    assert_eq!(
        built(&order.building),
        ["clock.quartz", "timetable.early", "timetable.log", "timetable.late", "timetable.board"]
    );
    assert_eq!(built(&order.later), ["timetable.history"]);
    assert_eq!(
        order.providers.iter().map(|one| one.provider.as_str()).collect::<Vec<_>>(),
        ["clock.provider", "timetable.provider"]
    );
    assert_eq!(order.providers[0].registers, ["clock.quartz"]);
    let depths: Vec<usize> = order.building.iter().map(|step| step.depth).collect();
    assert_eq!(depths, [0, 1, 0, 1, 2]);
}

#[test]
fn a_cycle_is_one_step_and_what_is_lacked_is_said() {
    let order = asked_order(NETWORK, Some("cycle"));
    assert_eq!(built(&order.building), ["a+b"]);
    assert_eq!(order.building[0].lacks, [Aim::Service("nowhere".to_owned())]);
    let whole = asked_order(NETWORK, None);
    assert_eq!(whole.building.len(), 9, "{:?}", built(&whole.building));
    assert!(!whole.has_roster);
}

#[test]
fn a_chain_of_many_is_in_order() {
    let mut text = "//- m.wiring.yaml\ncorvant: 1\nmodule: m\nservices:\n".to_owned();
    for number in 0..20_000 {
        writeln!(text, "  s{number}: {{ needs: {{ next: {{ service: s{} }} }} }}", number + 1)
            .expect("writing to a String");
    }
    text += "  s20000: {}\nentries: { e: { needs: { s: { service: s0 } } } }\n";
    let order = asked_order(&text, Some("e"));
    assert_eq!(order.building.len(), 20_001);
    assert_eq!(
        order.building.last().map(|step| (step.services[0].as_str(), step.depth)),
        Some(("s0", 20_000))
    );
    assert_eq!(names(&asked_why(&text, "e", "s20000", 0))[0].split(" > ").count(), 20_002);
}

fn asked_impact(text: &str, gone: &[&str]) -> Impact {
    let wiring = wiring(text);
    let view = View::new(&wiring, None);
    let subjects: Vec<Subject> = gone.iter().map(|name| subject(&view, name)).collect();
    impact(&view, &subjects)
}

fn affected(list: &[Affected]) -> Vec<String> {
    list.iter().map(|one| format!("{}: {}", one.name, impact_words::how(&one.how))).collect()
}

#[test]
fn what_goes_takes_its_holders_down() {
    // The choice names what is gone: nothing takes its place.
    let impact = asked_impact(NETWORK, &["clock.quartz"]);
    assert_eq!(affected(&impact.start_up), ["timetable.provider: needs timetable.board"]);
    assert_eq!(affected(&impact.entries), ["departures: needs timetable.board"]);
    assert_eq!(
        affected(&impact.services),
        ["timetable.board: needs clock.quartz", "timetable.early: needs clock.quartz"]
    );
    assert_eq!(impact.modules, [("timetable".to_owned(), 4)]);
    let late = asked_impact(NETWORK, &["timetable.late"]);
    assert_eq!(affected(&late.loses), ["timetable.board: collects one fewer: timetable.late"]);
}

const VOICES: &str = "
//- lib/velmora_a-1.dist-info/entry_points.txt
[velmora.voices]
cabin = velmora_a:Cabin
street = velmora_a:Street
[console_scripts]
voice = velmora_a:main
//- lib/velmora_b-1.dist-info/entry_points.txt
[velmora.voices]
depot = velmora_b:Depot
//- lib/dbus-1/services/org.velmora.Clock.service
[D-BUS Service]
Name=org.velmora.Clock
Exec=/usr/bin/clock --bus session
";

#[test]
fn what_is_handed_out_at_run_time_is_told_by_what_is_left_of_it() {
    let wiring = wiring(VOICES);
    let view = View::new(&wiring, None);
    let told = |name: &str| {
        let impact = impact(&view, &[subject(&view, name)]);
        let left = impact.handed_out.into_iter().map(|one| (one.contract, one.key, one.left));
        left.collect::<Vec<_>>()
    };
    let voices = |left| ("velmora.voices".to_owned(), None, left);
    let script = ("console_scripts".to_owned(), Some("voice".to_owned()), 0);
    assert_eq!(told("velmora-a:velmora.voices/cabin"), [voices(2)]);
    assert_eq!(told("velmora-a"), [script, voices(1)]);
    assert_eq!(told("velmora.voices"), [voices(0)]);
    let clock = told("lib/dbus-1/services/org.velmora.Clock.service");
    assert_eq!(clock, [("org.velmora.Clock".to_owned(), Some("session".to_owned()), 0)]);
}

#[test]
fn several_that_are_handed_out_are_meant_to_be_several() {
    let wiring = wiring(VOICES);
    let view = View::new(&wiring, None);
    let lines = |name: &str| {
        let sheet = show(&view, subject(&view, name), &audit(&wiring, &Options::default()));
        sheet.facts.iter().map(|fact| show_words::line(&sheet, &wiring, fact)).collect::<Vec<_>>()
    };
    let cabin = lines("velmora-a:velmora.voices/cabin");
    let all = "velmora.voices under cabin: one of 3, and who asks at run time gets them all".to_owned();
    assert!(cabin.contains(&all), "{cabin:?}");
    let clock = lines("lib/dbus-1/services/org.velmora.Clock.service");
    assert!(clock.contains(&"/usr/bin/clock --bus session".to_owned()), "{clock:?}");
}

#[rstest]
#[case::another_candidate("  a: { offers: [C] }\n  b: { offers: [C], default: true }", "b", "would get a")]
#[case::wrapped("  a: { offers: [C] }\n  b: { wraps: a }", "b", "would get a")]
#[case::replaced("  a: { offers: [C] }\n  b: { replaces: a, offers: [C] }", "b", "would get a")]
#[case::supplied_too(
    "  b: { offers: [C] }\nsupplied: { contracts: [C] }",
    "b",
    "would get what the host platform brings"
)]
fn what_it_stood_for_comes_back(#[case] services: &str, #[case] gone: &str, #[case] how: &str) {
    let text = format!(
        "//- m.wiring.yaml\ncorvant: 1\nmodule: m\nservices:\n{services}\nentries: {{ e: {{ needs: {{ c: {{ contract: C }} }} }} }}\n"
    );
    let impact = asked_impact(&text, &[gone]);
    assert_eq!(affected(&impact.replaced), [format!("e: {how}")]);
    assert!(impact.entries.is_empty(), "{impact:?}");
}

#[test]
fn optional_and_lazy_needs_soften_the_fall() {
    let optional = "//- m.wiring.yaml\ncorvant: 1\nmodule: m\nservices:\n  log: {}\n  board: { needs: { log: { service: log, optional: true } } }\nentries: { e: { needs: { b: { service: board } } } }\n";
    let log = asked_impact(optional, &["log"]);
    assert_eq!(affected(&log.loses), ["board: goes on without log, which is optional"]);
    assert!(log.services.is_empty() && log.entries.is_empty());
    // The board needs the history lazily: it fails at first use, and so does what needs the board.
    let history = asked_impact(NETWORK, &["timetable.history"]);
    assert_eq!(
        affected(&history.services),
        ["timetable.board: needs timetable.history (lazy), so it fails at first use"]
    );
    assert_eq!(affected(&history.entries), ["departures: needs timetable.board, so it fails at first use"]);
}

#[rstest]
#[case::a_setting("clock.tick", &["clock.quartz", "timetable.board", "timetable.early"])]
#[case::a_module("clock", &["timetable.board", "timetable.early"])]
#[case::nothing_needs_it("lonely", &[])]
fn other_things_go_too(#[case] gone: &str, #[case] expected: &[&str]) {
    let impact = asked_impact(NETWORK, &[gone]);
    assert_eq!(impact.services.iter().map(|one| one.name.as_str()).collect::<Vec<_>>(), expected);
}

#[test]
fn stages_in_which_it_is_otherwise_are_said() {
    // In the drill the choice is another one.
    let impact = asked_impact(NETWORK, &["clock.fake"]);
    let there = &impact.stages[0];
    assert_eq!(there.stage, "drill");
    assert!(there.fails_too.iter().any(|thing| thing.name == "timetable.board"), "{there:?}");
}

fn drawn(frame: &Frame, around: &[&str]) -> Picture {
    let wiring = wiring(NETWORK);
    let view = View::new(&wiring, None);
    let around = around.iter().map(|name| subject(&view, name)).collect();
    picture(&view, &Frame { around, ..frame.clone() }, &audit(&wiring, &Options::default()))
}

fn called(node: &Drawn) -> String {
    match &node.stands_for {
        StandsFor::Thing(thing) => words::thing(thing),
        StandsFor::Module(module) => module.clone().expect("all are of modules"),
        StandsFor::Missing(aim) => words::aim(aim),
    }
}

fn node_names(picture: &Picture) -> Vec<String> {
    picture.nodes.iter().map(called).collect()
}

#[rstest]
#[case::needs(Direction::Needs, 1, &["all that carry rule", "clock.quartz", "timetable.board", "timetable.early", "timetable.history", "timetable.late", "timetable.log"])]
#[case::users(Direction::Users, 1, &["departures", "timetable.board", "timetable.provider"])]
#[case::no_step(Direction::Both, 0, &["timetable.board"])]
fn a_frame_around_a_name(#[case] direction: Direction, #[case] depth: usize, #[case] expected: &[&str]) {
    let picture = drawn(&Frame { depth, direction, ..Frame::default() }, &["timetable.board"]);
    assert_eq!(node_names(&picture), expected);
    assert!(picture.nodes.iter().any(|node| node.is_center));
}

#[test]
fn the_whole_picture_has_cycles_faults_and_what_is_missing() {
    let picture = drawn(&Frame::default(), &[]);
    let at = |name: &str| picture.nodes.iter().position(|node| called(node) == name).expect("drawn");
    assert_eq!(picture.cycle_groups, [[at("a"), at("b")]]);
    let missing = &picture.nodes[at("nowhere")];
    assert_eq!(
        (missing.sort, missing.fault.map(corvant_core::finding::Severity::word)),
        (Sort::Missing, Some("error"))
    );
    assert!(picture.nodes[at("b")].fault.is_some() && picture.nodes[at("timetable.log")].fault.is_none());
    let manner = |from: &str, to: &str| {
        let line = picture.edges.iter().find(|line| (line.from, line.to) == (at(from), at(to)));
        line.map(|line| line.manner)
    };
    assert_eq!(manner("timetable.board", "timetable.history"), Some(Manner::Lazy));
    assert_eq!(manner("timetable.board", "timetable.log"), Some(Manner::Optional));
    assert_eq!(manner("all that carry rule", "timetable.late"), Some(Manner::Member));
    assert_eq!(manner("b", "nowhere"), Some(Manner::Unmet));
    // Templates and aliases are never built.
    assert!(!node_names(&picture).contains(&"timetable.base".to_owned()));
}

#[test]
fn only_cycle_groups_only_faults_and_only_modules() {
    let cycle_groups = drawn(&Frame { only_cycle_groups: true, ..Frame::default() }, &[]);
    assert_eq!(node_names(&cycle_groups), ["a", "b"]);
    let faults = drawn(&Frame { only_faults: true, ..Frame::default() }, &[]);
    assert!(
        node_names(&faults).contains(&"lonely".to_owned())
            && !node_names(&faults).contains(&"timetable.history".to_owned())
    );
    let modules = drawn(&Frame { by_module: true, ..Frame::default() }, &[]);
    assert_eq!(node_names(&modules), ["clock", "timetable"]);
    assert_eq!(
        modules.edges.iter().map(|line| (line.from, line.to, line.count)).collect::<Vec<_>>(),
        [(1, 0, 2)]
    );
}

/// What must hold of every answer, on workspaces that are full of faults, in every stage.
#[test]
fn answers_agree_with_the_graph_on_tangled_workspaces() {
    for seed in 0..120 {
        let files = corvant_testing::tangle::tangle(seed);
        let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        let stages = [None].into_iter().chain(wiring.stages.iter().copied().map(Some));
        for stage in stages {
            let view = View::new(&wiring, stage);
            let report = audit(&wiring, &Options { stage, ..Options::default() });
            dependencies_are_built_first(&view, &report, seed);
            let mut names: Vec<(Kind, corvant_core::name::Name)> = known_names(view.wiring).collect();
            names.sort_by_key(|&(kind, name)| (kind, wiring.text(name)));
            names.dedup();
            for &(kind, name) in &names {
                let subject = Subject { kind, name };
                let sheet = show(&view, subject, &report);
                assert!(sheet.sections().iter().all(|(_, facts)| !facts.is_empty()));
                let impact = impact(&view, &[subject]);
                assert_eq!(impact.gone, [wiring.text(name)], "seed {seed}");
                let around = Frame { around: vec![subject], depth: 2, ..Frame::default() };
                let picture = picture(&view, &around, &report);
                let last = picture.nodes.len();
                assert!(picture.edges.iter().all(|line| line.from < last && line.to < last), "seed {seed}");
            }
        }
    }
}

fn dependencies_are_built_first(view: &View<'_>, report: &Report, seed: u64) {
    let order = order(view, None);
    let steps = order.building.iter().enumerate();
    let built: HashMap<&str, usize> = steps
        .flat_map(|(step, built)| built.services.iter().map(move |name| (name.as_str(), step)))
        .collect();
    let picture = picture(view, &Frame::default(), report);
    let service = |node: usize| match &picture.nodes[node].stands_for {
        StandsFor::Thing(Thing { kind: ThingKind::Service, name, .. }) => Some(name.as_str()),
        _ => None,
    };
    for edge in picture.edges.iter().filter(|edge| edge.manner == Manner::Building) {
        let (Some(holder), Some(needed)) = (service(edge.from), service(edge.to)) else { continue };
        assert!(built[needed] <= built[holder], "seed {seed}: {holder} comes before {needed}");
    }
    let all: BTreeSet<&str> = (0..picture.nodes.len()).filter_map(service).collect();
    assert_eq!(built.into_keys().collect::<BTreeSet<_>>(), all, "seed {seed}");
}
