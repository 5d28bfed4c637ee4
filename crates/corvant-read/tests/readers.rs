//! What readers of demanding houses say: what is a mistake in a file, what belongs to the host, and how needs are meant.

use corvant_core::audit::{Options, audit};
use corvant_core::facts::{Need, Target, TroubleKind};
use corvant_core::finding::BlindSpotKind;
use corvant_read::workspace;
use corvant_testing::{expect, messages};
use rstest::rstest;
use std::fmt::Write;

/// A reader over one file, in words of its own before its takes and behind them.
fn house(syntax: &str, about: &str, takes: &str, file: &str) -> String {
    format!(
        "//- corvant.toml\n[[reader]]\nname = \"house\"\nfiles = [\"house.txt\"]\nsyntax = \"{syntax}\"\nmodule = \"depot\"\n{about}\n{takes}\n\
         //- house.txt\n{file}\n"
    )
}

const PARTS: &str = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\ntype = \"$.class\"\n\
    [[reader.take.need]]\neach = \"$.args[*]\"\n\
    [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\nvalue = \"$\"\n\
    [[reader.value]]\nmatch = '^~(?<service>[\\w.]+)$'\n[[reader.value]]\nmatch = '^\\{(?<setting>[\\w.]+)\\}$'\n\
    [[reader.value]]\nmatch = '^!(?<plain>.*)$'\n";

/// Rule and subject of all that is found.
fn found(text: &str) -> Vec<String> {
    messages(text).iter().map(|found| format!("{} {}", found.rule, found.subject)).collect()
}

#[test]
fn a_closed_reader_finds_what_it_does_not_look_at() {
    let file = "parts:
  depot.gate: { clas: velmora.Gate, args: [~depot.lock] }
                ^^^^ unknown-field parts.depot.gate.clas
  depot.lock: { class: velmora.Lock, about: { who: depot } }
  depot.key: {}
  ^^^^^^^^^ unused-service depot.key
page: { open: ~depot.gate }
^^^^ unknown-field page
pages: { door: ~depot.gate }";
    expect(&house("yaml", "closed = true\nignore = [\"$..about\"]", PARTS, file));
    let found =
        messages(&house("yaml", "closed = true", PARTS, "parts: { a: { class: x } }\npage: { x: ~a }"));
    let page = found.iter().find(|found| found.subject == "page").unwrap();
    assert!(page.text.contains("write pages"), "{page:#?}");
}

#[test]
fn an_item_that_lacks_what_it_must_have_is_one_finding_of_a_closed_reader() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.pages[*]\"\nid = \"$.name\"\nat = \"$.at\"\n";
    let file = "pages:
  - { name: open, at: GET / }
  - { nam: door, at: GET /door }
    ^^^^^^^^^^^^^^^^^^^^^^^^^^^^ unknown-field pages.2";
    expect(&house("yaml", "closed = true", takes, file));
}

#[rstest]
#[case::begins_as_one("~depot", &[])]
#[case::begins_as_one_and_is_none("~depot gate", &["wrong-shape pages.open"])]
#[case::ends_as_one("depot}", &["wrong-shape pages.open"])]
#[case::is_an_id("depot", &["unused-service depot", "wrong-shape pages.open"])]
#[case::said_to_be_none("!~depot gate", &["unused-service depot"])]
#[case::plain("open all day", &["unused-service depot"])]
fn a_strict_reader_finds_what_looks_like_a_reference(#[case] value: &str, #[case] expected: &[&str]) {
    let file = format!("parts: {{ depot: {{ class: x, args: [] }} }}\npages: {{ open: \"{value}\" }}");
    let mut told = found(&house("yaml", "strict = true", PARTS, &file));
    told.retain(|found| !found.contains("reader house"));
    let expected: Vec<String> = expected.iter().map(|&found| found.to_owned()).collect();
    let without_unused =
        |found: &[String]| found.iter().filter(|one| one.starts_with("wrong")).cloned().collect::<Vec<_>>();
    assert_eq!(without_unused(&told), without_unused(&expected));
    // Without that it is no finding.
    let told = found(&house("yaml", "", PARTS, &file));
    assert!(told.iter().all(|found| found != "wrong-shape pages.open"), "{told:?}");
}

#[test]
fn what_the_host_has_counts_and_is_not_judged() {
    let host = "parts: { host.log: { class: x, args: [~depot.gone, ~depot.used] }, host.idle: { class: y, args: [] } }\npages: { open: ~host.gone }";
    let text = house("yaml", "trusted = true", PARTS, host)
        + "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: { needs: { log: { service: host.log }, x: { service: host.gone } } } }\n//- b.wiring.yaml\ncorvant: 1\nmodule: b\nservices: { depot.used: {} }\n";
    assert_eq!(found(&text), ["missing-service host.gone"]);
    let wiring = corvant_testing::wiring_of(&text);
    let spots = audit(&wiring, &Options::default()).blind_spots;
    let trusted: Vec<_> = spots.iter().filter(|spot| spot.kind == BlindSpotKind::Trusted).collect();
    assert_eq!(trusted.len(), 1);
    assert!(trusted[0].message.starts_with("1 file is of the host"), "{trusted:?}");
    assert_eq!(found(&text.replace("trusted = true", "")).len(), 3);
}

#[test]
fn names_that_the_host_brings_are_taken_from_files() {
    let takes = "[[reader.take]]\nwhat = \"supplied\"\neach = \"$.host\"\nservice = \"$.services\"\ncontract = \"$.roles\"\n";
    let own = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nentries: { e: { needs: { log: { service: host.log }, x: { service: host.gone }, c: { contract: Clock } } } }\n";
    let text = house("yaml", "", takes, "host: { services: [host.log], roles: [Clock] }") + own;
    assert_eq!(found(&text), ["missing-service host.gone"]);
}

#[rstest]
#[case::all_of_a_beginning("host.*", "host.log", true)]
#[case::a_part("*.log", "host.log", true)]
#[case::in_the_middle("host.*.out", "host.log.out", true)]
#[case::another("host.*", "depot.log", false)]
#[case::not_twice_the_same("ab*ba", "aba", false)]
fn supplied_names_may_be_patterns(#[case] pattern: &str, #[case] needed: &str, #[case] is_supplied: bool) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nsupplied: {{ services: [\"{pattern}\"] }}\nentries: {{ e: {{ needs: {{ log: {{ service: {needed} }} }} }} }}\n"
    );
    assert_eq!(found(&text).is_empty(), is_supplied);
}

#[test]
fn needs_can_be_of_all_of_what_is_wrapped_and_in_a_slot() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\noffers = \"$.is\"\nwraps = \"$.around\"\n\
        [[reader.take.need]]\neach = \"$.args[*]\"\nmatch = ['^(?<slot>\\w+)=~(?<service>[\\w.]+)$', '^every (?<all>\\w+)$', '^(?<wrapped>inner)$']\n\
        [[reader.take.need]]\nwrapped = \"$.keeps\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$\"\n";
    let file = "parts:
  board: { args: [\"clock=~clock\", every Line] }
  clock: {}
  red: { is: Line }
  blue: { is: Line }
  wrapper: { around: clock, args: [inner] }
  second: { around: red, keeps: yes }
pages: { open: board }";
    let text = house("yaml", "", takes, file);
    assert_eq!(found(&text), [""; 0]);
    let wiring = corvant_testing::wiring_of(&text);
    let needs = wiring.facts.parts.needs.iter();
    let slots: Vec<&str> = needs.map(|need| wiring.text(need.slot.name)).collect();
    assert_eq!(slots[0], "clock");
    assert_eq!(wiring.facts.parts.needs.iter().filter(|need| need.target == Target::Wrapped).count(), 2);
}

#[test]
fn items_are_told_by_their_keys() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.*\"\nskip-keys = '^_'\nonly-keys = 'page'\nid = { key = true }\n\
        [[reader.take.need]]\nservice = \"$\"\n";
    assert_eq!(
        found(&house("yaml", "", takes, "page-one: a\n_page: b\nother: c\npage-two: d")),
        ["missing-service a", "missing-service d"]
    );
}

#[test]
fn the_keys_above_an_item_are_a_name() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$..[?@.at]\"\nid = { key-path = true, between = \"/\" }\nat = \"$.at\"\n\
        [[reader.take.need]]\nservice = \"$.for\"\n";
    let text = house("yaml", "", takes, "depot: { night: { gate: { at: open, for: gone } } }");
    let wiring = corvant_testing::wiring_of(&text);
    assert_eq!(wiring.text(wiring.facts.entries[0].id.name), "depot/night/gate");
}

#[test]
fn a_call_in_a_list_keeps_its_method_and_all_its_arguments() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.parts.*\"\nid = { key = true }\n\
        [[reader.take.need]]\neach = \"$.calls[*]\"\nvia = \"setter\"\nmethod = \"$[0]\"\nvalue = \"$[1]\"\n\
        [[reader.value]]\nmatch = '^~(?<service>[\\w.]+)$'\n";
    let text = house("yaml", "", takes, "parts: { a: { calls: [[lock, [~one, ~two]], [open, [~three]]] } }");
    let wiring = corvant_testing::wiring_of(&text);
    let needs = wiring.facts.parts.needs.iter();
    let service = |need: &Need| match need.target {
        Target::Service(id) => wiring.text(id),
        _ => "",
    };
    let calls: Vec<_> =
        needs.map(|need| (need.method.map(|method| wiring.text(method.name)), service(need))).collect();
    assert_eq!(calls, [(Some("lock"), "one"), (Some("lock"), "two"), (Some("open"), "three")]);
}

#[test]
fn filters_may_match_and_search() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.parts[?search(@.name, 'gate')]\"\nid = \"$.name\"\n[[reader.take.need]]\nservice = \"$.for\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.parts[?match(@.name, 'lo.k')]\"\nid = \"$.name\"\n[[reader.take.need]]\nservice = \"$.for\"\n";
    let file = "parts: [{ name: the gate, for: a }, { name: lock, for: b }, { name: locks, for: c }]";
    assert_eq!(found(&house("yaml", "", takes, file)), ["missing-service a", "missing-service b"]);
}

#[rstest]
#[case::by_default("", &["empty-file house.txt"])]
#[case::where_that_may_be("may-be-empty = true", &["wrong-shape reader house"])]
fn a_file_may_have_nothing_where_the_reader_says_so(#[case] about: &str, #[case] expected: &[&str]) {
    assert_eq!(found(&house("yaml", about, PARTS, "other: 1")), expected);
}

#[test]
fn look_ups_need_not_be_in_every_file() {
    let takes =
        "[[reader.take]]\nwhat = \"lookup\"\neach = \"$.calls[*]\"\n[[reader.take.need]]\nservice = \"$\"\n";
    let text = house("yaml", "", takes, "calls: [gone]").replace("\"house.txt\"", "\"*.txt\"")
        + "//- other.txt\nother: 1\n";
    assert_eq!(found(&text), ["lookup-of-missing gone"]);
}

#[test]
fn one_key_many_times_is_one_finding() {
    let found = found(&house(
        "yaml",
        "",
        PARTS,
        "pages: { a: 1, a: 2, a: 3 }\nparts: { b: { class: x, args: [1] } }",
    ));
    assert_eq!(found.iter().filter(|found| found.starts_with("repeated-field")).count(), 1, "{found:?}");
}

#[test]
fn what_is_looked_for_in_vain_is_a_warning_at_its_line() {
    let text = house("yaml", "", PARTS, "parts: { a: { clazz: x, args: [1] } }\npages: { open: ~a }");
    let found = messages(&text);
    let [idle] = found.as_slice() else { panic!("{found:#?}") };
    assert_eq!((idle.severity, idle.subject.as_str()), ("warning", "reader house"));
    let two = text.replace("\"house.txt\"", "\"*.txt\"")
        + "//- other.txt\nparts: { b: { class: x, args: [~a] } }\n";
    assert!(messages(&two).iter().all(|found| found.rule != "wrong-shape"));
    // Of a reader with a file that cannot be read nothing is known.
    let broken = text.replace("\"house.txt\"", "\"*.txt\"") + "//- other.txt\nparts: [\n";
    assert!(messages(&broken).iter().all(|found| found.rule != "wrong-shape"));
}

#[test]
fn names_in_xml_may_go_without_their_prefixes() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.all.page[*]\"\nid = \"$['@name']\"\n[[reader.take.need]]\nservice = \"$['@for']\"\n";
    let file = "<d:all xmlns:d=\"urn:velmora\"><d:page d:name=\"open\" for=\"gone\"/></d:all>";
    assert_eq!(found(&house("xml", "plain-names = true", takes, file)), ["missing-service gone"]);
    assert_eq!(found(&house("xml", "", takes, file)), ["empty-file house.txt"]);
}

#[test]
fn fixes_are_told_in_the_words_of_the_house() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\noffers = \"$.is\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\ncontract = \"$\"\n";
    let file = "parts: { a: { is: Line }, b: { is: Line } }\npages: { open: Line, door: Track }";
    let fixes = |about: &str| {
        messages(&house("yaml", about, takes, file)).into_iter().map(|found| found.text).collect::<String>()
    };
    let plain = fixes("");
    assert!(plain.contains("make a the default, or whichever of them is meant"), "{plain}");
    assert!(
        plain.contains(
            "let the service that has it offer Track, or list it under `[supplied]` in corvant.toml"
        ),
        "{plain}"
    );
    assert!(!plain.contains("default: true") && !plain.contains("offers:"), "{plain}");
    let own = fixes("[reader.say]\ndefault = \"write `{}!`\"\noffer = \"say `is: {}`\"\n");
    assert!(
        own.contains("write `a!`, or whichever of them is meant") && own.contains("say `is: Track`, or"),
        "{own}"
    );
}

#[rstest]
#[case::a_dot_alone(
    "[[reader.take]]\nwhat = \"service\"\neach = \"$.x\"\ntype = \".make\"\nid = \"$.a\"",
    "write $.make"
)]
#[case::an_attribute(
    "[[reader.take]]\nwhat = \"service\"\neach = \"$.x\"\ntype = \"@make\"\nid = \"$.a\"",
    "write $['@make']"
)]
#[case::the_same_id_for_all(
    "[[reader.take]]\nwhat = \"service\"\neach = \"$.x\"\nid = \"make\"",
    "write $.make"
)]
#[case::the_same_value_for_all(
    "[[reader.take]]\nwhat = \"entry\"\nid = \"e\"\n[[reader.take.need]]\nvalue = \"make\"",
    "write $.make"
)]
#[case::what_stands_for_nothing(
    "uses = { from = \"$.x\", form = \"{name}.{}\" }",
    "{name} stands for nothing"
)]
fn what_is_surely_not_meant_is_a_mistake(#[case] rest: &str, #[case] part: &str) {
    let toml = format!(
        "[[reader]]\nname = \"house\"\nfiles = [\"a.yaml\"]\nsyntax = \"yaml\"\nmodule = \"m\"\n{rest}\n"
    );
    let error = workspace::from_texts([("corvant.toml", toml.as_str())]).unwrap_err().to_string();
    assert!(error.contains(part) && error.contains("reader house"), "{error}");
}

#[test]
fn a_module_in_a_path_has_a_group() {
    let toml = "[[reader]]\nname = \"house\"\nfiles = [\"a.yaml\"]\nsyntax = \"yaml\"\nmodule = { path = 'modules/([^/]+)/' }\n";
    let error = workspace::from_texts([("corvant.toml", toml)]).unwrap_err().to_string();
    assert!(error.contains("5:19: reader house: module.path: no group of the expression says"), "{error}");
}

#[rstest]
#[case::of_a_map("first: yes", &[])]
#[case::of_no_map("first: perhaps", &["wrong-shape parts.a.first"])]
fn a_word_that_the_map_does_not_know_is_a_finding(#[case] part: &str, #[case] expected: &[&str]) {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\n\
        lifetime = { from = \"$.first\", map = { yes = \"process\", no = \"use\" } }\n";
    let mut told = found(&house("yaml", "", takes, &format!("parts: {{ a: {{ {part} }} }}")));
    told.retain(|found| !found.starts_with("unused"));
    assert_eq!(told, expected);
}

#[test]
fn a_tag_of_yaml_is_a_key_and_documents_are_files_of_their_own() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\n[[reader.take.need]]\neach = \"$.from[*]\"\nservice = \"$['!need']\"\nsetting = \"$['!set']\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.forms.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$['!need']\"\n";
    let file = "parts:
  roster: { from: [!need drivers, !set desk] }
                         ^^^^^^^ missing-service drivers
                                       ^^^^ missing-setting desk
---
forms:
  shift: !need roster
  other: &other !need gone
                      ^^^^ missing-service gone
  again: *other
---
forms: { more: !need [roster] }";
    expect(&house("yaml", "local-tags = true\ndocuments = true", takes, file));
    let plain = found(&house("yaml", "", takes, "forms: { a: 1 }\n---\nforms: {}"));
    assert_eq!(plain, ["unreadable-file house.txt"]);
}

#[test]
fn one_reader_takes_what_another_does_and_the_path_says_the_stage() {
    let text = "
//- corvant.toml
[[reader]]
name = \"base\"
files = [\"base.yaml\"]
syntax = \"yaml\"
module = \"crew\"
[[reader.take]]
what = \"entry\"
each = \"$.forms.*\"
id = { key = true }
[[reader.take.need]]
value = \"$\"
[[reader.value]]
match = '^%(?<setting>.+)$'
[[reader]]
name = \"staged\"
files = [\"stages/*/*.yaml\"]
syntax = \"yaml\"
module = \"crew\"
like = \"base\"
may-be-empty = true
[[reader.take]]
what = \"setting\"
each = \"$.settings.*\"
id = { key = true }
value = \"$\"
stage = { in-path = 'stages/([^/]+)/' }
//- base.yaml
forms: { shift: '%desk' }
//- stages/drill/settings.yaml
settings: { desk: 1 }
forms: { call: '%gone' }
//- stages/live/settings.yaml
settings: { other: 1 }
forms: { call: '%other' }
";
    let told: Vec<_> =
        messages(text).into_iter().map(|found| (found.subject, found.holds.unwrap_or_default())).collect();
    let holds = |stages: &[&str]| stages.iter().map(|&stage| stage.to_owned()).collect::<Vec<_>>();
    assert!(told.contains(&("desk".to_owned(), holds(&["live"]))), "{told:?}");
    assert!(told.contains(&("gone".to_owned(), holds(&[]))), "{told:?}");
    let toml = "[[reader]]\nname = \"a\"\nfiles = [\"a\"]\nsyntax = \"ini\"\nmodule = \"m\"\nlike = \"b\"\n";
    let error = workspace::from_texts([("corvant.toml", toml)]).unwrap_err().to_string();
    assert!(error.contains("no reader b stands above this one"), "{error}");
}

#[rstest]
#[case::ini("ini", "[a]\nneeds = ~depot.one\n  ~depot.two", (3, 3, 10))]
#[case::records("records", "Needs: ~depot.one\n  ~depot.two", (2, 3, 10))]
#[case::properties("properties", "needs = ~depot.one \\\n    ~depot.two", (2, 5, 10))]
#[case::the_same_twice("ini", "[a]\nneeds = x depot.two\n  ~depot.two", (3, 3, 10))]
fn places_in_values_of_several_lines_are_those_of_the_reference(
    #[case] syntax: &str,
    #[case] file: &str,
    #[case] (line, column, length): (u32, u32, u32),
) {
    let each = if syntax == "ini" {
        "$.a.needs"
    } else if syntax == "records" {
        "$.Needs"
    } else {
        "$.needs"
    };
    let takes = format!(
        "[[reader.take]]\nwhat = \"entry\"\nid = {{ constant = \"e\" }}\n[[reader.take.need]]\nvalue = \"{each}\"\n[[reader.value]]\nmatch = '~(?<service>[\\w.]+)'\n"
    );
    let files = corvant_testing::files(&house(syntax, "", &takes, file));
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let need = wiring.facts.parts.needs.last().unwrap();
    let source = &wiring.sources[need.source.index()];
    let position = source.position(need.span.start);
    // The sign before the name is no part of it.
    assert_eq!(
        (position.line, position.column, need.span.end - need.span.start),
        (line, column + 1, length - 1)
    );
}

#[test]
fn a_lifetime_that_the_workspace_does_not_know_is_a_finding() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\nlifetime = \"$.lives\"\n\
        [lifetimes]\norder = [\"day\", \"shift\"]\n";
    let file = "pages: { a: { lives: shift }, b: { lives: use }, c: { lives: request } }
                                                             ^^^^^^^ wrong-shape pages.c.lives";
    expect(&house("yaml", "", takes, file));
}

#[test]
fn tags_say_what_their_attributes_are() {
    let takes = "[[reader.take]]\nwhat = \"tag\"\neach = \"$.marks.*\"\nid = { key = true }\ncollected-by = { constant = \"board\" }\n\
        [[reader.take.attribute]]\neach = \"$.with.*\"\nname = { key = true }\nkind = \"$.is\"\nrequired = \"$.must\"\nunique = \"$.once\"\none-of = \"$.of\"\n\
        [[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\n[[reader.take.tag]]\neach = \"$.on.*\"\nname = { key = true }\nattributes = \"$\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$\"\n";
    let file = "marks: { line: { with: { order: { is: integer, must: yes, once: yes }, color: { of: [red, blue] } } } }
parts:
  board: {}
  a: { on: { line: { order: 1, color: red } } }
  b: { on: { line: { order: 2, color: green } } }
                                      ^^^^^ tag-attribute b
  c: { on: { line: { color: blue } } }
             ^^^^ tag-attribute c
  d: { on: { line: { order: first } } }
                            ^^^^^ tag-attribute d
pages: { open: board }";
    expect(&house("yaml", "", takes, file));
}

#[rstest]
#[case::by_path("", "velmora.Second")]
#[case::by_a_declared_order("order = [\"b/*\", \"a/*\"]\n", "velmora.First")]
#[case::by_an_order_of_modules("order = [\"b\", \"a\"]\n", "velmora.First")]
#[case::what_is_not_named_is_before_all("order = [\"a/*\"]\n", "velmora.First")]
fn the_later_of_two_definitions_is_the_later_in_the_order_of_files(
    #[case] order: &str,
    #[case] expected: &str,
) {
    let text = format!(
        "//- corvant.toml\n[policy]\nsame-id = \"last\"\n{order}\
         //- a/a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: {{ gate: {{ type: velmora.First }} }}\n\
         //- b/b.wiring.yaml\ncorvant: 1\nmodule: b\nservices: {{ gate: {{ type: velmora.Second }} }}\n\
         //- c/c.wiring.yaml\ncorvant: 1\nmodule: c\nexpect: [{{ service: gate, type: {expected} }}]\nentries: {{ e: {{ needs: {{ x: {{ service: gate }} }} }} }}\n"
    );
    assert_eq!(found(&text), ["duplicate-service gate"]);
}

#[rstest]
#[case::properties("properties", "needs = ~one\nneeds = ~two\nother = x", "$.needs")]
#[case::json("json", r#"{ "needs": "~one", "a": { "b": [{ "c": 1 }] }, "needs": "~two" }"#, "$.needs")]
#[case::deep("json", r#"{ "a": { "needs": "~one", "needs": ["~two"] } }"#, "$.a.needs[*]")]
fn a_repeated_key_may_be_a_list(#[case] syntax: &str, #[case] file: &str, #[case] path: &str) {
    let takes = format!(
        "[[reader.take]]\nwhat = \"entry\"\nid = {{ constant = \"e\" }}\n[[reader.take.need]]\nvalue = \"{path}\"\n[[reader.value]]\nmatch = '~(?<service>.+)'\n"
    );
    let expected = ["missing-service one", "missing-service two"];
    assert_eq!(found(&house(syntax, "repeats = \"list\"", &takes, file)), expected);
    assert!(found(&house(syntax, "", &takes, file)).iter().any(|found| found.starts_with("repeated-field")));
}

/// A file, a document and an element are items only where they have what the take says.
#[rstest]
#[case::documents(
    "documents = true",
    "",
    "kind: part\nname: a\nwants: b\n---\nkind: door\nname: d\nwants: a\n"
)]
#[case::elements(
    "",
    "each = \"$.all[*]\"\n",
    "all:\n- { kind: part, name: a, wants: b }\n- { kind: door, name: d, wants: a }\n"
)]
#[case::without_the_field(
    "documents = true",
    "",
    "kind: part\nname: a\nwants: b\n---\nkind: door\nname: d\nwants: a\n---\nname: c\nwants: gone\n"
)]
fn items_are_only_those_that_have_what_the_take_says(
    #[case] about: &str,
    #[case] each: &str,
    #[case] file: &str,
) {
    let take = |what: &str, kind: &str| {
        format!(
            "[[reader.take]]\nwhat = \"{what}\"\n{each}only-where = {{ from = \"$.kind\", match = \"^{kind}$\" }}\nid = \"$.name\"\n[[reader.take.need]]\nservice = \"$.wants\"\n"
        )
    };
    let takes = format!("{}{}", take("service", "part"), take("entry", "door"));
    assert_eq!(found(&house("yaml", about, &takes, file)), ["missing-service b"]);
}

/// What has no text where one is asked for is no item, and no mistake.
#[rstest]
#[case::itself(
    "$",
    "all: { a: gone, b: { kind: part }, c: [{ d: e }] }",
    "id = { key = true }\n[[reader.take.need]]\nservice = \"$\""
)]
#[case::a_field(
    "$.kind",
    "all: { a: { kind: part, wants: gone }, b: { kind: { of: part }, wants: b }, c: { kind: [{}], wants: c } }",
    "id = { key = true }\n[[reader.take.need]]\nservice = \"$.wants\""
)]
fn items_without_a_text_where_one_is_asked_for_are_left_alone(
    #[case] path: &str,
    #[case] file: &str,
    #[case] rest: &str,
) {
    let takes =
        format!("[[reader.take]]\nwhat = \"entry\"\neach = \"$.all.*\"\nonly-where = \"{path}\"\n{rest}\n");
    assert_eq!(found(&house("yaml", "", &takes, file)), ["missing-service gone"]);
}

#[test]
fn what_may_be_left_over_may_be_in_every_document() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.forms.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$\"\n";
    let file = "note: one\nforms: { a: x }\n---\nnote: two\nforms: { b: x }\n";
    let told = found(&house("yaml", "closed = true\ndocuments = true\nignore = [\"$.note\"]", takes, file));
    assert_eq!(told, ["missing-service x"]);
}

#[test]
fn a_reference_that_says_its_slot_leaves_the_others_theirs() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\nid = { constant = \"e\" }\n[[reader.take.need]]\neach = \"$.with.*\"\nvalue = \"$\"\n\
        [[reader.value]]\nmatch = '(?:(?<slot>\\w+)=)?~(?<service>\\w+)'\n";
    let files = corvant_testing::files(&house("yaml", "", takes, "with: { plain: 'clock=~one and ~two' }"));
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let slots = wiring.facts.parts.needs.iter().map(|need| wiring.text(need.slot.name));
    assert_eq!(slots.collect::<Vec<_>>(), ["clock", "plain"]);
}

/// What every service needs and is, by id and module, in some files.
fn linked(text: &str) -> Vec<String> {
    let wiring = corvant_testing::wiring_of(text);
    let others = wiring.facts.troubles.iter().filter(|trouble| trouble.kind != TroubleKind::IdlePath);
    let troubles: Vec<&String> = others.map(|trouble| &trouble.message).collect();
    assert!(troubles.is_empty(), "{troubles:?}");
    let of = |service: &corvant_core::facts::Service| {
        let needs = service.needs.of(&wiring.facts.parts).iter().map(|need| match need.target {
            Target::Service(id) => format!("{}={}", wiring.text(need.slot.name), wiring.text(id)),
            _ => wiring.text(need.slot.name).to_owned(),
        });
        let module = wiring.module_name(service.source).unwrap_or("?");
        let type_name = service.type_name.map_or("", |named| wiring.text(named.name));
        format!(
            "{module}/{} {type_name} {}",
            wiring.text(service.id.name),
            needs.collect::<Vec<_>>().join(" ")
        )
    };
    wiring.services().map(|(_, service)| of(service).trim().to_owned()).collect()
}

#[rstest]
#[case::behind(
    "depot.gate: velmora.Gate\ndepot.gate!needs: [~depot.lock]\ndepot.lock: velmora.Lock\ndepot.gate!more: [~depot.lock]"
)]
#[case::before(
    "depot.gate!needs: [~depot.lock]\ndepot.gate: velmora.Gate\ndepot.gate!more: [~depot.lock]\ndepot.lock: velmora.Lock"
)]
fn what_sibling_keys_say_belongs_to_one_definition(#[case] file: &str) {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.*\"\nskip-keys = \"!\"\nid = { key = true }\ntype = \"$\"\n\
        [[reader.take]]\nwhat = \"service\"\nmerge = true\neach = \"$.*\"\nonly-keys = \"!\"\nid = { key = true, match = \"^([^!]+)\" }\n\
        [[reader.take.need]]\neach = \"$.*\"\nslot = { number = true, form = \"{id}-{}\" }\n\
        [[reader.value]]\nmatch = '^~(?<service>[\\w.]+)$'\n";
    let gate = "depot/depot.gate velmora.Gate depot.gate-1=depot.lock depot.gate-1=depot.lock";
    let mut found = linked(&house("yaml", "", takes, file));
    found.sort();
    assert_eq!(found, [gate, "depot/depot.lock velmora.Lock"]);
}

const BOXES: &str = "[[reader.take]]\nwhat = \"service\"\neach = \"$.boxes.box[*]\"\nid = \"$['@name']\"\ntype = \"$['@class']\"\n\
    [[reader.take.need]]\neach = \"$.slot[*]\"\nslot = \"$['@name']\"\nnested = \"$.box[*]\"\nservice = \"$['@box']\"\n";

#[test]
fn definitions_without_a_name_are_called_after_their_holder_and_slot() {
    let file = "<boxes><box name=\"depot.gate\" class=\"velmora.Gate\">\n\
        <slot name=\"lamps\"><box class=\"velmora.Lamps\"><slot name=\"fuse\"><box class=\"velmora.Fuse\"/></slot></box></slot>\n\
        <slot name=\"keys\"><box class=\"velmora.Red\"/><box class=\"velmora.Blue\"/></slot>\n\
        <slot name=\"lock\"><box name=\"depot.lock\" class=\"velmora.Lock\"/></slot>\n\
        <slot name=\"again\" box=\"depot.lock\"/></box></boxes>";
    assert_eq!(
        linked(&house("xml", "", BOXES, file)),
        [
            "depot/depot.gate velmora.Gate lamps=depot.gate.lamps keys=depot.gate.keys keys=depot.gate.keys.2 \
             lock=depot.lock again=depot.lock",
            "depot/depot.gate.lamps velmora.Lamps fuse=depot.gate.lamps.fuse",
            "depot/depot.gate.keys velmora.Red",
            "depot/depot.gate.keys.2 velmora.Blue",
            "depot/depot.lock velmora.Lock",
            "depot/depot.gate.lamps.fuse velmora.Fuse",
        ]
    );
}

#[test]
fn a_nested_definition_that_is_an_item_of_its_own_is_defined_once() {
    let takes = BOXES.replace("$.boxes.box[*]", "$..box[*]");
    let file = "<boxes><box name=\"a\" class=\"A\"><slot name=\"b\"><box name=\"b\" class=\"B\"/></slot></box></boxes>";
    assert_eq!(linked(&house("xml", "", &takes, file)), ["depot/a A b=b", "depot/b B"]);
}

#[test]
fn a_fault_in_a_nested_definition_is_told_where_it_stands() {
    let entry = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.boxes.page[*]\"\nid = \"$['@name']\"\n[[reader.take.need]]\nservice = \"$['@box']\"\n";
    let file = "<boxes>
  <page name=\"open\" box=\"gate\"/>
  <box name=\"gate\" class=\"Gate\">
    <slot name=\"lamps\"><box class=\"Lamps\"><slot name=\"fuse\" box=\"gone\"/></box></slot>
                                                                 ^^^^ missing-service gone
  </box>
</boxes>";
    expect(&house("xml", "", &format!("{BOXES}{entry}"), file));
}

#[test]
fn deep_nesting_is_no_matter_of_depth() {
    let depth = 80;
    let file = format!(
        "<boxes><box name=\"a\" class=\"A\">{}{}</box></boxes>",
        "<slot name=\"s\"><box class=\"B\">".repeat(depth),
        "</box></slot>".repeat(depth)
    );
    let found = linked(&house("xml", "", BOXES, &file));
    assert_eq!(found.len(), depth + 1);
    assert_eq!(found[depth], format!("depot/a{} B", ".s".repeat(depth)));
}

const UNITS: &str = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true, form = \"{module}.{}\" }\nmodule = { from = \"$.unit\" }\n\
    internal = \"$.own\"\n[[reader.take.need]]\neach = \"$.with[*]\"\nservice = \"$\"\n\
    [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$\"\n";

#[test]
fn an_item_may_belong_to_a_module_of_its_own() {
    let file = "parts:
  gate: { unit: yard, with: [crew.bell] }
  bell: { unit: crew, own: true }
  lamp: { with: [yard.gate] }
pages: { open: depot.lamp }";
    let text = house("yaml", "", UNITS, file);
    assert_eq!(
        linked(&text),
        ["depot/depot.lamp  1=yard.gate", "yard/yard.gate  1=crew.bell", "crew/crew.bell"]
    );
    // What is a module's own is its own within one file, too.
    assert_eq!(found(&text), ["internal-reach crew.bell"]);
    let wiring = corvant_testing::wiring_of(&text);
    let report = audit(&wiring, &Options::default());
    let of_house = report.readers.iter().find(|known| known.reader.is_some()).unwrap();
    assert_eq!((report.summary.modules, report.summary.manifests, of_house.files), (3, 1, 1));
}

#[test]
fn a_file_in_which_every_item_names_its_module_needs_none_itself() {
    let takes = UNITS.split("[[reader.take]]\nwhat = \"entry\"").next().unwrap();
    let text = house("yaml", "", takes, "parts: { gate: { unit: yard }, bell: { unit: crew } }");
    let text = text.replace("module = \"depot\"", "module = \"$.nothing\"");
    assert_eq!(linked(&text), ["yard/yard.gate", "crew/crew.bell"]);
}

/// Files of a folder and of two stages, in words of one house.
fn staged(files: &[(&str, &str)]) -> String {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$[?@.class]\"\nid = { key = true }\ntype = \"$.class\"\n\
        stages = { in-path = 'stages/([^/]+)/' }\nexcept = \"$['not-in']\"\nlifetime = { from = \"$.lives\", absent = { file = \"folder.yaml\", from = \"$.lives\" } }\n\
        [[reader.take.need]]\neach = \"$.with.*\"\nservice = \"$\"\n\
        [[reader.take]]\nwhat = \"service\"\neach = \"$[?@.change == true]\"\nid = { key = true }\ntype = \"$.to\"\namends = true\nstages = { in-path = 'stages/([^/]+)/' }\n\
        [[reader.take.need]]\neach = \"$.with.*\"\nservice = \"$\"\n\
        [[reader.take]]\nwhat = \"service\"\neach = \"$[?@ == null]\"\nid = { key = true }\nremoved = true\nstages = { in-path = 'stages/([^/]+)/' }\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$\"\n";
    let mut text = format!(
        "//- corvant.toml\n[[reader]]\nname = \"house\"\nfiles = [\"**/*.house.yaml\"]\nsyntax = \"yaml\"\nmodule = \"depot\"\n{takes}\n"
    );
    for (path, file) in files {
        write!(text, "//- {path}\n{file}\n").unwrap();
    }
    text
}

/// Rule, subject and stages of all that is found.
fn found_in(text: &str) -> Vec<String> {
    let told = |found: &corvant_testing::Found| {
        let holds = found.holds.as_ref().map_or_else(String::new, |holds| format!(" in {}", holds.join(" ")));
        format!("{} {}{holds}", found.rule, found.subject)
    };
    messages(text).iter().filter(|found| !found.subject.starts_with("reader house")).map(told).collect()
}

#[rstest]
#[case::in_all("gate: { class: A }", "", &[])]
#[case::in_all_but_one("gate: { class: A, not-in: [drill] }", "", &["missing-service gate in drill"])]
#[case::taken_away_in_one("gate: { class: A }", "gate: null", &["missing-service gate in drill"])]
#[case::another_is_taken_away("gate: { class: A }\nlamp: { class: B }", "lamp: null", &["unused-service lamp"])]
#[case::what_is_taken_away_is_not_there("gate: { class: A }", "gatte: null", &["wrong-shape gatte"])]
#[case::changed_in_one("gate: { class: A }", "gate: { change: true, to: B }", &[])]
#[case::a_need_more_in_one(
    "gate: { class: A, with: { a: bell } }\nbell: { class: C }",
    "gate: { change: true, with: { b: gone } }",
    &["missing-service gone in drill"]
)]
#[case::a_need_otherwise_in_one(
    "gate: { class: A, with: { a: gone } }\nbell: { class: C }",
    "gate: { change: true, with: { a: bell } }",
    &["missing-service gone in -"]
)]
#[case::changed_and_nothing_to_change("bell: { class: C }", "gate: { change: true, to: B }", &["missing-service gate in -", "unused-service bell"])]
fn stages_are_said_in_every_way_that_houses_do(
    #[case] base: &str,
    #[case] drill: &str,
    #[case] expected: &[&str],
) {
    let base = format!("{base}\npages: {{ open: gate }}");
    let mut files = vec![("depot.house.yaml", base.as_str())];
    if !drill.is_empty() {
        files.push(("stages/drill/depot.house.yaml", drill));
    }
    assert_eq!(found_in(&staged(&files)), expected);
}

#[test]
fn who_takes_a_definition_away_is_told_and_found() {
    let text = staged(&[
        ("depot.house.yaml", "gate: { class: A }\npages: { open: gate }"),
        ("stages/drill/depot.house.yaml", "gate: null"),
    ]);
    let told = messages(&text);
    let missing = told.iter().find(|found| found.rule == "missing-service").unwrap();
    let fix = "gate (depot.house.yaml:1) is in all stages but drill, for it is taken away there (stages/drill/depot.house.yaml:1)";
    assert!(missing.text.contains(fix), "{missing:#?}");
    let wiring = corvant_testing::wiring_of(&text);
    let found = corvant_core::answers::find::find(&wiring, None, |name| name == "gate");
    let acts: Vec<&str> = found.iter().map(|mention| mention.act.word()).collect();
    assert!(acts.contains(&"taken away"), "{acts:?}");
}

#[test]
fn what_is_changed_twice_is_changed_by_both() {
    let text = staged(&[
        (
            "a.house.yaml",
            "gate: { class: A, with: { a: gone, b: gone } }\nbell: { class: C }\npages: { open: gate }",
        ),
        ("stages/drill/b.house.yaml", "gate: { change: true, with: { a: bell } }"),
        ("stages/drill/c.house.yaml", "gate: { change: true, with: { b: bell } }"),
    ]);
    assert_eq!(found_in(&text), ["missing-service gone in -"]);
    let wiring = corvant_testing::wiring_of(&text);
    // The last of them says all that counts.
    let gates = wiring.services().filter(|(index, _)| wiring.id(*index) == "gate");
    let (_, gate) = gates.last().unwrap();
    assert_eq!((wiring.text(gate.type_name.unwrap().name), gate.needs.len()), ("A", 2));
}

#[rstest]
#[case::of_its_own_folder(&[("yard/folder.yaml", "lives: request"), ("folder.yaml", "lives: process")], Some("request"))]
#[case::of_the_folder_above(&[("folder.yaml", "lives: process")], Some("process"))]
#[case::of_none(&[], None)]
#[case::of_one_without_it(&[("yard/folder.yaml", "lies: request")], None)]
fn a_file_may_say_what_counts_for_its_folder(
    #[case] defaults: &[(&str, &str)],
    #[case] expected: Option<&str>,
) {
    let mut files = vec![("yard/a.house.yaml", "gate: { class: A }\nbell: { class: B, lives: use }")];
    files.extend(defaults);
    let files = corvant_testing::files(&staged(&files));
    let wiring = corvant_testing::wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let lifetimes =
        wiring.services().map(|(_, service)| service.lifetime.map(|named| wiring.text(named.name)));
    assert_eq!(lifetimes.collect::<Vec<_>>(), [expected, Some("use")]);
}

#[test]
fn a_file_for_a_folder_that_cannot_be_read_is_one_finding_of_all_who_ask_it() {
    let text = staged(&[
        ("yard/a.house.yaml", "gate: { class: A }\npages: { open: gate }"),
        ("yard/b.house.yaml", "bell: { class: A }\npages: { ring: bell }"),
        ("folder.yaml", "lives: ["),
    ]);
    let mut told = messages(&text);
    told.retain(|found| !found.subject.starts_with("reader house"));
    assert_eq!(told.len(), 1, "{told:#?}");
    assert_eq!(told[0].subject, "folder.yaml");
    assert_eq!(told[0].rule, "unreadable-file");
}

#[test]
fn what_only_a_service_of_unknown_needs_could_need_is_not_called_unused() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\nneeds = { from = \"$.built\", map = { code = \"unknown\" } }\n\
        [[reader.take]]\nwhat = \"setting\"\neach = \"$.values.*\"\nid = { key = true }\nvalue = \"$\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$\"\n";
    let file = "parts: { gate: { built: code }, bell: {} }\nvalues: { a: 1 }\npages: { open: gate }";
    let text = house("yaml", "", takes, file);
    assert_eq!(found(&text), [""; 0]);
    assert_eq!(
        found(&text.replace("built: code", "built: null")),
        ["unused-service bell", "unused-setting a"]
    );
    let wiring = corvant_testing::wiring_of(&text);
    let spots = audit(&wiring, &Options::default()).blind_spots;
    let spot = spots.iter().find(|spot| spot.kind == BlindSpotKind::UnknownNeeds).unwrap();
    assert_eq!(
        spot.message,
        "what 1 service needs cannot be known: nothing is reported as unused that it may need (gate)"
    );
    // What its module does not use it cannot need.
    let other = "//- crew.wiring.yaml\ncorvant: 1\nmodule: crew\nservices: { crew.bell: {} }\n";
    assert_eq!(found(&format!("{text}{other}")), [""; 0]);
    let closed = text.replace("module = \"depot\"", "module = \"depot\"\nuses = \"$.uses\"");
    assert_eq!(found(&format!("{closed}{other}")), ["unused-service crew.bell"]);
    let open = closed.replace("pages:", "uses: [crew]\npages:");
    assert_eq!(found(&format!("{open}{other}")), [""; 0]);
}

#[rstest]
#[case::by_path("", "B")]
#[case::imported_first("imports-first = true", "A")]
fn what_a_file_imports_comes_before_it(#[case] policy: &str, #[case] expected: &str) {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\ntype = \"$\"\n\
        [[reader.take]]\nwhat = \"import\"\neach = \"$.read[*]\"\npath = \"$\"\n";
    let text = format!(
        "//- corvant.toml\n[policy]\nsame-id = \"last\"\n{policy}\n[[reader]]\nname = \"house\"\nfiles = [\"*.house.yaml\"]\nsyntax = \"yaml\"\nmodule = \"depot\"\n{takes}\n\
         //- a.house.yaml\nread: [c.house.yaml, b.house.yaml]\nparts: {{ gate: A }}\n//- b.house.yaml\nread: [a.house.yaml]\nparts: {{ gate: B }}\n//- c.house.yaml\nparts: {{ bell: C }}\n"
    );
    let wiring = corvant_testing::wiring_of(&text);
    let view = corvant_core::answers::View::new(&wiring, None);
    let subject = corvant_core::answers::look_up(&wiring, "gate", None).unwrap();
    let sheet = corvant_core::answers::show::show(&view, subject, &audit(&wiring, &Options::default()));
    let is_type = |fact: &&corvant_core::answers::show::Fact| {
        fact.section == corvant_core::answers::show::Section::Type
    };
    let told = format!("{:?}", sheet.facts.iter().find(is_type).unwrap().said);
    assert!(told.contains(&format!("\"{expected}\"")), "{told}");
}

#[test]
fn a_file_that_is_not_there_is_told_once_where_a_list_names_it_and_its_provider() {
    let takes = "[[reader.take]]\nwhat = \"roster\"\neach = \"$[*]\"\nprovider = { from = \"$\", match = \"([a-z]+)[.]house\" }\n\
        [[reader.take]]\nwhat = \"import\"\neach = \"$[*]\"\npath = \"$\"\n";
    let text = house("yaml", "", takes, "- gone.house\n");
    assert_eq!(found(&text), ["missing-import gone.house"]);
}

#[rstest]
#[case::records(
    "records",
    "-- night line\nPart: depot.gate\n\n-- none\nPart: depot.bell\n",
    "$[*]",
    "$.Part"
)]
#[case::lines("lines", "-- night line\ndepot.gate\n\ndepot.bell\n", "$[*]", "$")]
fn comments_begin_as_the_reader_says(
    #[case] syntax: &str,
    #[case] file: &str,
    #[case] each: &str,
    #[case] id: &str,
) {
    let takes = format!("[[reader.take]]\nwhat = \"service\"\neach = \"{each}\"\nid = \"{id}\"\n");
    let text = house(syntax, "comment = \"--\"", &takes, file);
    assert_eq!(linked(&text), ["depot/depot.gate", "depot/depot.bell"]);
}

#[rstest]
#[case::from_the_folder_of_the_file("shared/clock.txt", "depot/shared/clock.txt", true)]
#[case::from_the_root("/shared/clock.txt", "shared/clock.txt", true)]
#[case::up_and_down("../shared/./clock.txt", "shared/clock.txt", true)]
#[case::elsewhere("shared/clock.txt", "shared/clock.txt", false)]
fn a_file_that_must_be_there_is_named_from_the_folder_or_the_root(
    #[case] written: &str,
    #[case] path: &str,
    #[case] is_there: bool,
) {
    let text = format!(
        "//- corvant.toml\n[[reader]]\nname = \"house\"\nfiles = [\"depot/*.list\"]\nsyntax = \"lines\"\nmodule = \"depot\"\nmay-be-empty = true\n\
         [[reader.take]]\nwhat = \"import\"\neach = \"$[*]\"\npath = \"$\"\n//- depot/all.list\n{written}\n//- {path}\nx\n"
    );
    let expected: &[&str] = if is_there { &[] } else { &["missing-import shared/clock.txt"] };
    assert_eq!(found(&text), expected);
}

#[test]
fn a_path_into_all_that_is_inside_takes_each_definition_once() {
    let depth = 80;
    let takes = BOXES.replace("nested = \"$.box[*]\"", "nested = \"$..box[*]\"");
    let file = format!(
        "<boxes><box name=\"a\" class=\"A\">{}{}</box></boxes>",
        "<slot name=\"s\"><box class=\"B\">".repeat(depth),
        "</box></slot>".repeat(depth)
    );
    assert_eq!(linked(&house("xml", "", &takes, &file)).len(), depth + 1);
}

#[rstest]
#[case::one("with: ~depot.lock")]
#[case::in_a_list("with: [~depot.lock]")]
#[case::behind_others("a: 1\n    b: 2\n    with: ~depot.lock")]
fn one_value_has_the_slot_that_the_first_of_many_has(#[case] with: &str) {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = { key = true }\n[[reader.take.need]]\neach = \"$.with\"\n\
        slot = { number = true }\n[[reader.value]]\nmatch = '^~(?<service>[\\w.]+)$'\n";
    let file = format!("parts:\n  depot.gate:\n    {with}\n  depot.lock: {{}}");
    assert_eq!(
        linked(&house("yaml", "", takes, &file)),
        ["depot/depot.gate  1=depot.lock", "depot/depot.lock"]
    );
}

#[rstest]
#[case::in_their_place("", "1=depot.lock")]
#[case::behind_them(
    "slot = { number = true, form = \"{id}-{}\" }\n",
    "depot.gate-1=depot.lock depot.base-1=depot.key"
)]
fn arguments_take_the_place_of_the_models_or_come_behind_them(#[case] slot: &str, #[case] expected: &str) {
    let takes = format!(
        "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts.*\"\nid = {{ key = true }}\nlike = \"$.like\"\n\
         [[reader.take.need]]\neach = \"$.args[*]\"\nservice = \"$\"\n{slot}"
    );
    let file = "parts:\n  depot.base: { args: [depot.key] }\n  depot.gate: { like: depot.base, args: [depot.lock] }\n  depot.lock: {}\n  depot.key: {}";
    assert_eq!(linked(&house("yaml", "", &takes, file))[1], format!("depot/depot.gate  {expected}"));
}

#[test]
fn what_is_changed_everywhere_is_what_a_stage_changes() {
    let text = staged(&[
        (
            "a.house.yaml",
            "gate: { class: A, with: { a: gone, b: gone, c: gone } }\nbell: { class: C }\npages: { open: gate }",
        ),
        ("b.house.yaml", "gate: { change: true, to: B, with: { a: bell } }"),
        ("c.house.yaml", "gate: { change: true, with: { b: bell } }"),
        ("stages/drill/d.house.yaml", "gate: { change: true, with: { c: bell } }"),
    ]);
    // Everywhere the gate lacks what `c` asks for; in the drill it has all three.
    assert_eq!(found_in(&text), ["missing-service gone in -"]);
    let wiring = corvant_testing::wiring_of(&text);
    let drill = wiring.facts.services.iter().filter(|service| !service.stages.is_empty());
    assert!(drill.clone().all(|gate| wiring.text(gate.type_name.unwrap().name) == "B"));
    assert_eq!(drill.map(|gate| gate.needs.len()).collect::<Vec<_>>(), [3]);
}

/// As many definitions as there are that change or take away the same: what that costs grows as they do.
#[test]
fn a_definition_may_be_changed_and_taken_away_any_number_of_times() {
    let many = 20_000;
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts[*]\"\nid = \"$.id\"\namends = \"$.change\"\nremoved = \"$.gone\"\nstages = \"$.in\"\n\
        [[reader.take.need]]\neach = \"$.with.*\"\nservice = \"$\"\n";
    let mut file = "parts:\n- { id: gate, with: { a: bell } }\n- { id: bell }\n".to_owned();
    for number in 0..many {
        writeln!(file, "- {{ id: gate, change: true, in: [drill], with: {{ n{number}: bell }} }}").unwrap();
        writeln!(file, "- {{ id: gate, change: true, in: [s{number}] }}").unwrap();
        writeln!(file, "- {{ id: bell, gone: true, in: [t{number}] }}").unwrap();
    }
    let text = house("yaml", "", takes, &file);
    let wiring = corvant_testing::wiring_of(&text);
    assert_eq!(wiring.facts.services.len(), 2 + 2 * many);
    assert!(wiring.facts.parts.needs.len() < 4 * many, "{}", wiring.facts.parts.needs.len());
    assert!(wiring.facts.parts.named.len() < 12 * many, "{}", wiring.facts.parts.named.len());
}
