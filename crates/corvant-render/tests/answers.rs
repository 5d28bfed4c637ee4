//! Answers as people and programs read them.

use corvant_core::answers::impact::{Affected, Effect, HandedOut, Impact, Lost, StageImpact};
use corvant_core::answers::order::{Built, Order, Registration};
use corvant_core::answers::show::{Fact, Said, Section, Sheet};
use corvant_core::answers::terms::{Aim, Gets, Link, NeedManner, Reason, Thing, ThingKind};
use corvant_core::answers::why::{BrokenNeed, ChainLink, Nearest, Why};
use corvant_core::answers::{Kind, find::find};
use corvant_core::source::{Place, SourceIndex, Span};
use corvant_core::wiring::Wiring;
use corvant_render::answers::{find as found, impact, order, show, why};
use corvant_render::documents;
use corvant_render::out::Out;
use corvant_render::text::Layout;
use rstest::rstest;
use serde_json::Value;
use std::io;

const PLAIN: Layout = Layout { width: None, color: false };

fn wiring() -> Wiring {
    let text = "corvant: 1\nmodule: m\nservices:\n  depot.gate: {}\n  depot.yard: { needs: { g: { service: depot.gate } } }\n";
    corvant_testing::wiring([("depot/depot.wiring.yaml", text)])
}

/// The place of the first service.
fn place() -> Place {
    Place::new(SourceIndex(0), Span::new(33, 43), "")
}

fn written(write: impl FnOnce(&mut Out<'_>) -> io::Result<()>) -> String {
    let mut out: Vec<u8> = Vec::new();
    write(&mut Out::new(&mut out)).expect("a Vec takes all");
    String::from_utf8(out).expect("it is text")
}

fn value(write: impl FnOnce(&mut Out<'_>) -> io::Result<()>) -> Value {
    serde_json::from_str(&written(write)).expect("it is JSON")
}

fn name(text: &str) -> Said {
    Said::Name { name: text.to_owned(), key: None, from: None, stage: None }
}

fn fact(text: &str) -> Fact {
    Fact { section: Section::NeededBy, said: name(text), place: Some(place()) }
}

fn sheet(facts: Vec<Fact>) -> Sheet {
    let type_name = Fact { section: Section::Type, said: name("velmora.Gate"), place: None };
    let facts = std::iter::once(type_name).chain(facts).collect();
    Sheet { kind: Kind::Service, name: "depot.gate".to_owned(), facts }
}

#[test]
fn labels_stand_in_a_column_and_are_not_repeated() {
    let sheet = sheet(vec![fact("one"), fact("two")]);
    let text = written(|out| show::text(&sheet, &wiring(), PLAIN, out));
    let expected = "service depot.gate\n  type       velmora.Gate\n  needed by  one  depot/depot.wiring.yaml:4:3\n             two  depot/depot.wiring.yaml:4:3\n";
    assert_eq!(text, expected);
}

#[test]
fn many_facts_are_counted_in_text_and_whole_in_json() {
    let sheet = sheet((0..50).map(|number| fact(&format!("user {number}"))).collect());
    let text = written(|out| show::text(&sheet, &wiring(), PLAIN, out));
    assert_eq!(text.matches("user ").count(), 40);
    assert!(text.ends_with("             … and 10 more; JSON has all\n"), "{text}");
    let json = value(|out| documents::sheet::write(&sheet, &wiring(), out));
    assert_eq!(json["sections"]["needed_by"].as_array().map(Vec::len), Some(50));
}

#[test]
fn json_has_the_parts_and_the_place_of_each_fact() {
    let json = value(|out| documents::sheet::write(&sheet(vec![fact("one")]), &wiring(), out));
    assert_eq!(json["kind"], "service");
    let expected = serde_json::json!({
        "said": "name", "name": "one", "file": "depot/depot.wiring.yaml",
        "line": 4, "column": 3, "end_line": 4, "end_column": 13,
    });
    assert_eq!(json["sections"]["needed_by"][0], expected);
    assert_eq!(json["sections"]["type"][0].get("file"), None);
}

#[rstest]
#[case::it_fits(80, "             a short text  depot/depot.wiring.yaml:4:3\n")]
#[case::it_does_not(44, "             a short text\n               depot/depot.wiring.yaml:4:3\n")]
fn an_address_goes_to_the_next_line_where_it_does_not_fit(#[case] width: usize, #[case] expected: &str) {
    let layout = Layout { width: Some(width), color: false };
    let sheet = sheet(vec![fact("first"), fact("a short text")]);
    let text = written(|out| show::text(&sheet, &wiring(), layout, out));
    assert!(text.ends_with(expected), "{text}");
}

#[test]
fn a_terminal_is_never_shown_what_it_would_act_on() {
    let sheet = sheet(vec![fact("a\u{1b}[31mb\u{202e}c")]);
    let text = written(|out| show::text(&sheet, &wiring(), PLAIN, out));
    assert!(text.contains("a\\u{1b}[31mb\\u{202e}c"), "{text}");
}

#[test]
fn colour_is_only_where_it_is_asked_for() {
    let colored = Layout { width: None, color: true };
    let sheet = sheet(vec![fact("one")]);
    let text = written(|out| show::text(&sheet, &wiring(), colored, out));
    assert!(text.contains("\u{1b}[1mdepot.gate\u{1b}[0m"), "{text:?}");
    assert!(!written(|out| show::text(&sheet, &wiring(), PLAIN, out)).contains('\u{1b}'));
}

fn thing(name: &str) -> Thing {
    Thing { kind: ThingKind::Service, name: name.to_owned(), key: None }
}

fn broken_need() -> BrokenNeed {
    BrokenNeed {
        holder: thing("b"),
        slot: "x".to_owned(),
        aim: Aim::Contract("C".to_owned(), None),
        gets: Gets { service: Some("d".to_owned()), reason: Reason::Only },
        place: place(),
    }
}

fn step(from: &str, to: &str) -> ChainLink {
    ChainLink {
        from: thing(from),
        to: thing(to),
        how: Link::Need {
            slot: "g".to_owned(),
            aim: Aim::Service(to.to_owned()),
            reason: Reason::Id,
            manner: NeedManner::default(),
        },
        place: Some(place()),
        is_for_building: true,
    }
}

fn why_of(chains: Vec<Vec<ChainLink>>, nearest: Option<Nearest>) -> Why {
    let count = chains.len() as u64;
    Why { from: "a".to_owned(), to: "c".to_owned(), chains, count, at_least: false, nearest }
}

#[test]
fn a_chain_is_a_step_a_line_and_chains_are_counted() {
    let one = why_of(vec![vec![step("a", "b"), step("b", "c")]], None);
    let expected = "2 steps: a depends on c\n    a\n  └─  b    (g: b)  depot/depot.wiring.yaml:4:3\n  └─  c    (g: c)  depot/depot.wiring.yaml:4:3\n1 chain in all\n";
    assert_eq!(written(|out| why::text(&one, &wiring(), PLAIN, out)), expected);
    let mut two = why_of(vec![vec![step("a", "c")], vec![step("a", "b"), step("b", "c")]], None);
    (two.count, two.at_least) = (9, true);
    let text = written(|out| why::text(&two, &wiring(), PLAIN, out));
    assert!(
        text.contains("chain 1, 1 step: a depends on c") && text.contains("chain 2, 2 steps: "),
        "{text}"
    );
    assert!(text.ends_with("at least 9 chains in all\n"), "{text}");
}

#[rstest]
#[case::reversed(Nearest::Reversed(vec![step("c", "a")]),
    "a does not depend on c\nit is the other way round:\n    c\n  └─  a    (g: a)  depot/depot.wiring.yaml:4:3\n", "/nearest/reversed/0/to")]
#[case::broken(Nearest::BreaksOff { chain: vec![step("a", "b")], need: Box::new(broken_need()) },
    "a does not depend on c\nthe nearest way ends here:\n    a\n  └─  b    (g: b)  depot/depot.wiring.yaml:4:3\n    b needs contract C in x: gets d, the only one that offers it  depot/depot.wiring.yaml:4:3\n", "/nearest/breaks_off/chain/0/to")]
#[case::apart(Nearest::Apart { reached: 3, users: 1 },
    "a does not depend on c\na comes to use 3 services, itself included; 1 thing comes to use c; nothing is in both\n", "/nearest/apart/reached")]
fn what_comes_nearest_is_said(#[case] nearest: Nearest, #[case] expected: &str, #[case] pointer: &str) {
    let answer = why_of(Vec::new(), Some(nearest));
    assert_eq!(written(|out| why::text(&answer, &wiring(), PLAIN, out)), expected);
    let json = value(|out| documents::why::write(&answer, &wiring(), out));
    assert!(json.pointer(pointer).is_some(), "{json:#}");
    assert_eq!(json["count"], 0);
}

fn built(services: &[&str], lacks: &[&str]) -> Built {
    let owned = |words: &[&str]| words.iter().map(|&word| word.to_owned()).collect();
    Built {
        services: owned(services),
        place: Some(place()),
        lacks: lacks.iter().map(|&lacked| Aim::Service(lacked.to_owned())).collect(),
        depth: 1,
    }
}

fn registration(registers: usize, is_whole_module: bool) -> Registration {
    Registration {
        provider: "p".to_owned(),
        place: None,
        registers: (0..registers).map(|number| format!("s{number}")).collect(),
        is_whole_module,
    }
}

#[rstest]
#[case::a_service(built(&["a"], &[]), "      1  a  depot/depot.wiring.yaml:4:3\n")]
#[case::a_cycle_group(built(&["a", "b"], &[]), "      1  a cycle group of 2 services: a ⇄ b  depot/depot.wiring.yaml:4:3\n")]
#[case::lacking(built(&["a"], &["x", "y"]), "      1  a (cannot be built: x, y not found)  depot/depot.wiring.yaml:4:3\n")]
fn a_step_of_building_is_a_line(#[case] step: Built, #[case] expected: &str) {
    let order = Order { building: vec![step.clone()], later: vec![step], ..Order::default() };
    let text = written(|out| order::text(&order, &wiring(), PLAIN, out));
    let head = "building (what is needed first, then by name)\n";
    let later = "later (for lazy needs, and those that are met after building)\n";
    assert_eq!(text, format!("{head}{expected}{later}{expected}"));
    let json = value(|out| documents::order::write(&order, &wiring(), out));
    assert_eq!(json["building"], json["later"]);
    assert_eq!(json["building"][0]["depth"], 1);
}

#[rstest]
#[case::a_list(registration(2, false), true, "registering (the roster's order)\n      1  p: s0, s1\n")]
#[case::a_module(
    registration(1, true),
    true,
    "registering (the roster's order)\n      1  p: all of its module: s0\n"
)]
#[case::many(
    registration(8, false),
    true,
    "registering (the roster's order)\n      1  p: s0, s1, s2, s3, s4, s5 and 2 more\n"
)]
#[case::nothing(
    registration(0, true),
    false,
    "registering (no roster: in the order of the files)\n      1  p: nothing\n"
)]
fn a_provider_says_what_it_registers(
    #[case] provider: Registration,
    #[case] has_roster: bool,
    #[case] expected: &str,
) {
    let all = provider.registers.len();
    let order = Order { providers: vec![provider], has_roster, ..Order::default() };
    let text = written(|out| order::text(&order, &wiring(), PLAIN, out));
    assert!(text.starts_with(expected), "{text}");
    assert!(text.ends_with("         nothing\n"));
    let json = value(|out| documents::order::write(&order, &wiring(), out));
    assert_eq!(json["registering"][0]["registers"].as_array().map(Vec::len), Some(all));
}

fn affected(name: &str) -> Affected {
    Affected {
        name: name.to_owned(),
        module: "m".to_owned(),
        how: Effect::Needs { what: Lost::Thing(thing("x")), manner: NeedManner::default(), later: false },
        place: None,
    }
}

#[rstest]
#[case::nothing(Impact::default(), "nothing needs it: nothing stops working\n")]
#[case::at_start(Impact { start_up: vec![affected("p")], ..Impact::default() }, "the application does not start\n")]
#[case::at_first_use(Impact { entries: vec![affected("e")], services: vec![affected("s"), affected("t")], ..Impact::default() },
    "the application starts; 1 entry fails at first use; 2 services cannot be built\n")]
#[case::only_changed(Impact { loses: vec![affected("s")], replaced: vec![affected("t")], ..Impact::default() },
    "the application starts; 2 things change and go on\n")]
fn the_last_line_of_an_impact_says_how_bad_it_is(#[case] impact: Impact, #[case] expected: &str) {
    let text = written(|out| impact::text(&impact, &wiring(), PLAIN, out));
    assert!(text.ends_with(expected), "{text}");
}

#[test]
fn an_impact_has_a_row_for_each_thing_and_stage() {
    let impact = Impact {
        gone: vec!["x".to_owned(), "y".to_owned()],
        start_up: vec![affected("p")],
        entries: vec![affected("e")],
        services: vec![affected("s")],
        loses: vec![affected("l")],
        replaced: vec![affected("r")],
        failing_already: vec![affected("f")],
        handed_out: vec![
            HandedOut { contract: "c".to_owned(), key: None, left: 2 },
            HandedOut { contract: "c".to_owned(), key: Some("k".to_owned()), left: 1 },
            HandedOut { contract: "d".to_owned(), key: None, left: 0 },
        ],
        modules: vec![("m".to_owned(), 3)],
        stages: vec![StageImpact {
            stage: "drill".to_owned(),
            fails_too: Vec::new(),
            does_not_fail: vec![thing("s")],
        }],
    };
    let text = written(|out| impact::text(&impact, &wiring(), PLAIN, out));
    for line in [
        "without x, y\n",
        "  start-up fails in  p: needs x\n",
        "  first use fails    e: needs x\n",
        "  cannot be built    s: needs x\n",
        "  gets another       r: needs x\n",
        "  goes on without    l: needs x\n",
        "  fails already      f: needs x\n",
        "  at run time        whoever asks for all of c gets one fewer: 2 are left\n",
        "                     whoever asks for c under k gets another; 1 is left\n",
        "                     whoever asks for d gets nothing\n",
        "  by module          m 3\n",
        "  in drill           service s does not fail\n",
    ] {
        assert!(text.contains(line), "{line} is not in\n{text}");
    }
    let json = value(|out| documents::impact::write(&impact, &wiring(), out));
    let first = |list: &str| json[list][0]["name"].as_str().map(str::to_owned);
    let lists =
        ["fails_at_start_up", "fails_at_first_use", "cannot_be_built", "gets_another", "goes_on_without"];
    assert_eq!(lists.map(first), ["p", "e", "s", "r", "l"].map(|name| Some(name.to_owned())));
    assert_eq!(json["handed_out"][1], serde_json::json!({ "contract": "c", "key": "k", "left": 1 }));
    assert_eq!(json["stages"][0]["does_not_fail"][0]["name"], "s");
}

#[test]
fn a_mention_is_a_line_that_editors_jump_to() {
    let wiring = wiring();
    let mentions = find(&wiring, None, |name| name == "depot.gate");
    let text = written(|out| found::text(&mentions, &wiring, PLAIN, out));
    let expected = "depot/depot.wiring.yaml:4:3: service depot.gate defined\ndepot/depot.wiring.yaml:5:40: service depot.gate needed, by depot.yard\n";
    assert_eq!(text, expected);
    let json = value(|out| documents::mentions::write(&mentions, &wiring, out));
    assert_eq!(
        (&json["mentions"][0]["by"], &json["mentions"][1]["by"]),
        (&Value::Null, &"depot.yard".into())
    );
    let none = value(|out| documents::mentions::write(&[], &wiring, out));
    assert_eq!(none["mentions"], serde_json::json!([]));
}
