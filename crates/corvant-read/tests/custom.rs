//! Custom readers: what they take, how places come through, and mistakes in what is custom.

use corvant_core::finding::Finding;
use corvant_read::workspace::{self, WorkspaceError};
use corvant_testing::{expect, messages};
use rstest::rstest;

/// A reader over one file, with takes in its own words.
fn custom(syntax: &str, takes: &str, file: &str) -> String {
    format!(
        "//- corvant.toml\n[[reader]]\nname = \"house\"\nfiles = [\"house.txt\"]\nsyntax = \"{syntax}\"\nmodule = \"depot\"\n{takes}\n\
         //- house.txt\n{file}\n"
    )
}

const VALUES: &str = "[[reader.value]]\nmatch = '~(?<optional>\\?)?(?<lazy>!)?(?<service>[\\w.]+)'\n\
    [[reader.value]]\nmatch = '^a (?<contract>\\w+)(?: as (?<key>\\w+))?$'\n\
    [[reader.value]]\nmatch = '^every (?<tag>\\w+)$'\n\
    [[reader.value]]\nmatch = '\\{(?<setting>[\\w.]+)\\}'\n\
    [[reader.value]]\nmatch = '^of (?<type>[\\w.]+)$'\n";

fn with_needs(file: &str) -> String {
    let takes = format!(
        "[[reader.take]]\nwhat = \"entry\"\neach = \"$.*\"\nid = {{ key = true }}\n[[reader.take.need]]\neach = \"$.*\"\n{VALUES}"
    );
    custom("yaml", &takes, file)
}

#[rstest]
#[case::service("page: { x: ~depot.gate }", &["missing-service depot.gate"])]
#[case::several_in_one_text("page: { x: \"~depot.a and ~depot.b\" }", &["missing-service depot.a", "missing-service depot.b"])]
#[case::optional("page: { x: ~?depot.gate }", &[])]
#[case::contract("page: { x: a Clock }", &["missing-implementation Clock"])]
#[case::key("page: { x: a Clock as wall }", &["missing-implementation Clock#wall"])]
#[case::type_as_contract("page: { x: of velmora.Clock }", &["missing-implementation velmora.Clock"])]
#[case::setting("page: { x: \"file:{depot.feed}/{depot.port}\" }", &["missing-setting depot.feed", "missing-setting depot.port"])]
#[case::lists_are_gone_into("page: { x: [~depot.a, plain, ~depot.b] }", &["missing-service depot.a", "missing-service depot.b"])]
#[case::plain_values("page: { x: 1, y: true, z: text, n: null }", &[])]
fn references_inside_values(#[case] file: &str, #[case] expected: &[&str]) {
    let found = messages(&with_needs(file));
    let mut found: Vec<String> =
        found.iter().map(|found| format!("{} {}", found.rule, found.subject)).collect();
    found.sort();
    assert_eq!(found, expected);
}

#[test]
fn places_point_into_the_text() {
    expect(&with_needs(
        "page:\n  x: \"to ~depot.gate, then\"\n          ^^^^^^^^^^ missing-service depot.gate\n  y: ['{depot.port}']\n        ^^^^^^^^^^ missing-setting depot.port",
    ));
}

#[test]
fn setters_factories_aliases_tags_and_stages_are_taken() {
    let takes = r#"
[[reader.take]]
what = "service"
each = "$.parts.*"
id = { key = true }
offers = "$.is"
alias-of = "$['same-as']"
built-by = "$['built-by']"
method = "$.with"
stages = { from = "$.only", split = " " }
internal = "$.own"
[[reader.take.need]]
each = "$.then[*]"
service = "$.hand"
via = "setter"
method = "$.call"
[[reader.take.tag]]
each = "$.marks[*]"
name = "$.mark"
attributes = "$"
[[reader.take]]
what = "tag"
each = "$.gather.*"
id = { key = true }
contract = "$.of"
[[reader.take]]
what = "choice"
each = "$.pick.*"
contract = { key = true }
service = "$"
[[reader.take]]
what = "contract"
each = "$.roles[*]"
id = "$"
[[reader.take]]
what = "entry"
each = "$.pages.*"
id = { key = true }
[[reader.take.need]]
contract = "Gate"
[[reader.take.need]]
tag = "task"
"#;
    let file = "parts:
  depot.gate: { is: [Gate], then: [{ call: lock, hand: depot.lok }] }
                                                       ^^^^^^^^^ missing-service depot.lok
  depot.door: { is: [Gate], same-as: depot.gate }
  ^^^^^^^^^^ unused-alias depot.door
  depot.made: { is: Gate, built-by: depot.works, with: make }
                                    ^^^^^^^^^^^ missing-service depot.works
  depot.wash: { is: Task, marks: [{ mark: task, order: 1 }], only: drill live }
  depot.sand: { marks: [{ mark: task, order: 2 }], own: no }
                                ^^^^ tag-contract depot.sand
gather: { task: { of: Task } }
pick: { Gate: depot.gat }
              ^^^^^^^^^ choice-mismatch Gate
roles: [Unneeded]
        ^^^^^^^^ unused-contract Unneeded
pages: { open: {} }";
    expect(&custom("yaml", takes, file));
}

#[test]
fn a_setter_opens_a_cycle_and_a_factory_does_not() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.*\"\nid = { key = true }\n[[reader.take.need]]\nservice = \"$.set\"\nvia = { constant = \"setter\" }\n[[reader.take.need]]\nservice = \"$.take\"\n";
    let severity = |file: &str| {
        let found = messages(&custom("yaml", takes, file));
        found.into_iter().find(|found| found.rule == "service-cycle").map(|found| found.severity)
    };
    assert_eq!(severity("a: { set: b }\nb: { take: a }"), Some("note"));
    assert_eq!(severity("a: { take: b }\nb: { take: a }"), Some("error"));
}

#[test]
fn providers_rosters_look_ups_and_expectations_are_taken() {
    let takes = r#"
[[reader.take]]
what = "provider"
each = "$.providers.*"
id = { key = true }
registers = "$.brings"
after = "$.after"
[[reader.take.start]]
service = "$.uses"
[[reader.take]]
what = "roster"
each = "$.load[*]"
provider = "$"
[[reader.take]]
what = "service"
each = "$.services[*]"
id = "$"
[[reader.take]]
what = "lookup"
each = "$.asked[*]"
[[reader.take.need]]
service = "$"
[[reader.take]]
what = "expectation"
each = "$.sure[*]"
contract = "$.of"
met-by = "$.is"
"#;
    let file = "providers:
  first: { brings: [depot.gate], uses: depot.gate, after: [second] }
  ^^^^^ needed-too-early second > first
  second: { brings: [depot.gon] }
                     ^^^^^^^^^ empty-promise second > depot.gon
load: [first, second, third]
                      ^^^^^ missing-provider third
services: [depot.gate]
asked: [depot.gat]
        ^^^^^^^^^ lookup-of-missing depot.gat
sure: [{ of: Gate, is: depot.gate }]
             ^^^^ unmet-expectation Gate";
    let found = messages(&custom("yaml", takes, file));
    let rules: std::collections::BTreeSet<&str> = found.iter().map(|found| found.rule).collect();
    for rule in ["empty-promise", "missing-provider", "lookup-of-missing", "unmet-expectation"] {
        assert!(rules.contains(rule), "{rule}: {found:#?}");
    }
}

#[test]
fn look_ups_alone_do_not_tell_what_is_unused() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.services[*]\"\nid = \"$\"\n\
        [[reader.take]]\nwhat = \"lookup\"\neach = \"$.asked[*]\"\n[[reader.take.need]]\nservice = \"$\"\n\
        [[reader.take]]\nwhat = \"entry\"\neach = \"$.pages[*]\"\nid = \"$\"\n";
    let unused = |file: &str| {
        let found = messages(&custom("yaml", takes, file));
        found
            .into_iter()
            .filter(|found| found.rule == "unused-service")
            .map(|found| found.subject)
            .collect::<Vec<_>>()
    };
    assert_eq!(unused("services: [a, b]\nasked: [a]"), [""; 0]);
    assert_eq!(unused("services: [a, b]\nasked: [a]\npages: [p]"), ["b"]);
}

#[test]
fn the_workspace_file_is_no_house_file() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.services[*]\"\nid = \"$\"\n";
    expect(&custom("toml", takes, "services = []\n  empty-file house.txt").replace("\"house.txt\"", "\"*\""));
}

#[test]
fn settings_have_values_by_stage_and_refer_to_others() {
    let takes = "[[reader.take]]\nwhat = \"setting\"\neach = \"$.base.*\"\nid = { key = true }\nvalue = \"$\"\n\
        [[reader.take]]\nwhat = \"setting\"\neach = \"$.drill.*\"\nid = { key = true }\nvalue = \"$\"\nstage = \"drill\"\n\
        [[reader.value]]\nmatch = '\\{(?<setting>\\w+)\\}'\n";
    let found = messages(&custom("yaml", takes, "base: { feed: \"{port}\" }\ndrill: { port: 80 }"));
    let missing: Vec<_> = found.iter().filter(|found| found.rule == "missing-setting").collect();
    assert!(missing.is_empty() || missing[0].holds.as_deref() != Some(&["drill".to_owned()]), "{found:#?}");
    let found = messages(&custom("yaml", takes, "base: { feed: \"{prt}\" }\ndrill: { port: 80 }"));
    assert!(found.iter().any(|found| found.subject == "prt"), "{found:#?}");
}

#[test]
fn made_names_say_what_they_were_made_from() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts[*]\"\n\
        id = { from = \"$.type\", last-part = true, case = \"kebab\", form = \"{module}.{}\" }\ntype = \"$.type\"\n\
        [[reader.take]]\nwhat = \"entry\"\nid = { constant = \"x\", form = \"{file}.{}\" }\n";
    let found = messages(&custom("yaml", takes, "parts: [{ type: velmora.depot.NightGate }]"));
    assert_eq!(found.len(), 1, "{found:#?}");
    assert_eq!(found[0].subject, "depot.night-gate");
    assert!(found[0].text.contains("(this text makes depot.night-gate)"), "{found:#?}");
}

#[rstest]
#[case::path("{ path = '^(?<module>[^/]+)/' }", "house/a.yaml", &["unused-use house > other", "missing-module house > other"])]
#[case::field("\"$.unit\"", "a.yaml", &["missing-module depot > other"])]
#[case::nowhere("\"$.nothing\"", "a.yaml", &["wrong-shape module"])]
#[case::no_match("{ path = '^never/(?<module>x)' }", "a.yaml", &["wrong-shape module"])]
fn modules_come_from_paths_and_fields(#[case] module: &str, #[case] path: &str, #[case] expected: &[&str]) {
    let text = format!(
        "//- corvant.toml\n[[reader]]\nname = \"house\"\nfiles = [\"**/a.yaml\"]\nsyntax = \"yaml\"\nmodule = {module}\nuses = \"$.knows\"\n\
         [[reader.take]]\nwhat = \"service\"\neach = \"$.parts[*]\"\nid = \"$\"\n\
         //- {path}\nunit: depot\nknows: [other]\nparts: [x]\n"
    );
    let found = messages(&text);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(expected.contains(&format!("{} {}", found[0].rule, found[0].subject).as_str()), "{found:#?}");
}

/// A file in which all belongs to other modules than its own is not empty.
#[test]
fn a_file_whose_items_name_their_modules_is_not_empty() {
    let takes = "[[reader.take]]\nwhat = \"setting\"\neach = \"$.*.*\"\nmodule = { key = true, above = 1 }\nid = { key = true }\nvalue = \"$\"\n";
    let found = |file: &str| -> Vec<&str> {
        messages(&custom("yaml", takes, file)).into_iter().map(|found| found.rule).collect()
    };
    assert_eq!(found("signals: { wait: 4 }\ncrew: { late: 2 }"), ["unused-setting"; 2]);
    assert_eq!(found("signals: {}"), ["empty-file"]);
}

#[test]
fn fields_can_start_above_the_item() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$..part[*]\"\nid = \"$['@name']\"\n\
        offers = { above = 1, from = \"$['@role']\" }\nkey = { above = 1, key = true }\n\
        [[reader.take]]\nwhat = \"entry\"\nid = \"x\"\n[[reader.take.need]]\ncontract = \"Clock\"\nkey = \"late\"\n";
    let file = "<works><group role='Clock'><part name='a'/></group></works>";
    let found = messages(&custom("xml", takes, file));
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(
        found[0].text.contains("Clock is not offered under the key late, only under group"),
        "{found:#?}"
    );
}

/// Lists that a filter selects are things as they are, whatever it compares them with.
#[test]
fn lists_are_told_apart_by_what_stands_in_them() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\neach = \"$.pages[*]\"\nid = \"$[0]\"\n\
        [[reader.take.need]]\neach = \"$[1][?@[0] == 'part']\"\nservice = \"$[1]\"\n\
        [[reader.take.need]]\neach = \"$[1][?@[0] == 'value']\"\nsetting = \"$[1]\"\n";
    let found =
        messages(&custom("yaml", takes, "pages: [[open, [[part, gate], [value, wait], [part, lamp]]]]"));
    let mut found: Vec<String> =
        found.iter().map(|found| format!("{} {}", found.rule, found.subject)).collect();
    found.sort();
    assert_eq!(found, ["missing-service gate", "missing-service lamp", "missing-setting wait"]);
}

#[test]
fn what_does_not_fit_is_a_finding_at_its_place() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.parts[*]\"\nid = \"$.name\"\noffers = \"$.is\"\ndefault = \"$.first\"\n\
        [[reader.take.need]]\nservice = \"$.with\"\nvia = \"$.by\"\n\
        [[reader.take]]\nwhat = \"tag\"\neach = \"$.marks[*]\"\nid = \"$.name\"\nat-least = \"$.least\"\n\
        [[reader.take]]\nwhat = \"contract\"\neach = \"$.roles[*]\"\nid = \"$.name\"\nmeant-for = \"$.for\"\n";
    expect(&custom(
        "yaml",
        takes,
        "parts:
  - { name: { deep: x } }
            ^^^^^^^^^^^ wrong-shape parts.1.name
  - { name: a, is: [{ x: y }] }
                    ^^^^^^^^ wrong-shape parts.2.is.1
  - { name: b, first: perhaps }
                      ^^^^^^^ wrong-shape parts.3.first
  - { name: c, name: d }
               ^^^^ repeated-field parts.4.name
  - { name: e, with: c, by: magic }
                            ^^^^^ wrong-shape parts.5.by
marks: [{ name: m, least: many }]
                          ^^^^ wrong-shape marks.1.least
                ^ unused-tag m
roles: [{ name: R, for: nobody }]
                        ^^^^^^ wrong-shape roles.1.for
                ^ unused-contract R",
    ));
    expect(
        &custom("yaml", takes, "other: [1]\nempty-file house.txt")
            .replace("\nempty-file house.txt", "\n  empty-file house.txt"),
    );
    expect(
        &custom("yaml", takes, "parts: [\n^ unreadable-file house.txt")
            .replace("\n^ unreadable", "\n  unreadable"),
    );
}

fn error(toml: &str) -> String {
    let texts = [("corvant.toml", toml), ("a.yaml", "x: 1\n"), ("b.wiring.yaml", "corvant: 1\nmodule: b\n")];
    match workspace::from_texts(texts) {
        Err(error @ (WorkspaceError::BrokenReaders { .. } | WorkspaceError::BrokenFile { .. })) => {
            error.to_string()
        }
        other => panic!("{other:?}"),
    }
}

const HEAD: &str = "[[reader]]\nname = \"house\"\nfiles = [\"a.yaml\"]\nsyntax = \"yaml\"\nmodule = \"m\"\n";

#[rstest]
#[case::unknown_field("colour = 1", "6:1: reader house: colour: `1`", "has no field `colour`")]
#[case::bad_path(
    "[[reader.take]]\nwhat = \"service\"\nid = \"$.a[\"",
    "8:6: reader house: take.1.id",
    "is no JSONPath"
)]
#[case::no_dollar(
    "[[reader.take]]\nwhat = \"service\"\nid = \"$\"\neach = \"parts\"",
    "9:8: reader house: take.1.each",
    "write $.parts"
)]
#[case::dashes(
    "[[reader.take]]\nwhat = \"service\"\nid = \"$\"\neach = \"$.a.all-of.b\"",
    "9:8: reader house: take.1.each",
    "write $.a['all-of'].b"
)]
#[case::bad_expression(
    "[[reader.value]]\nmatch = '('",
    "7:9: reader house: value.1.match",
    "is no usable expression"
)]
#[case::large_expression(
    "[[reader.value]]\nmatch = '(?<service>(\\w{500}){500})'",
    "7:9: reader house: value.1.match",
    "is no usable expression"
)]
#[case::no_group("[[reader.value]]\nmatch = '^~'", "7:9: reader house: value", "no group says what is meant")]
#[case::unknown_group(
    "[[reader.value]]\nmatch = '(?<thing>x)'",
    "7:9: reader house: value",
    "the group `thing` means nothing"
)]
#[case::what(
    "[[reader.take]]\nwhat = \"thing\"",
    "7:8: reader house: take.1.what",
    "takes one of service, contract"
)]
#[case::no_id(
    "[[reader.take]]\nwhat = \"service\"",
    "6:1: reader house: take.1",
    "a take of service has a field `id`"
)]
#[case::foreign_field(
    "[[reader.take]]\nwhat = \"setting\"\nid = \"$\"\nlifetime = \"x\"",
    "9:1: reader house: take.1.lifetime",
    "has no field `lifetime`"
)]
#[case::foreign_list(
    "[[reader.take]]\nwhat = \"setting\"\nid = \"$\"\n[[reader.take.tag]]\nname = \"$\"",
    "9:16: reader house: take.1.tag",
    "has no field `tag`"
)]
#[case::via(
    "[[reader.take]]\nwhat = \"entry\"\nid = \"$\"\n[[reader.take.need]]\nservice = \"$\"\nvia = \"magic\"",
    "11:7: reader house: take.1.need.1.via",
    "takes one of constructor"
)]
#[case::two_origins(
    "uses = { from = \"$\", constant = \"x\" }",
    "6:8: reader house: uses",
    "says where its text comes from"
)]
#[case::case(
    "uses = { from = \"$\", case = \"loud\" }",
    "6:28: reader house: uses.case",
    "takes one of lower"
)]
#[case::second_of_the_name(
    "[[reader]]\nname = \"house\"\nfiles = [\"c\"]\nsyntax = \"ini\"\nmodule = \"m\"",
    "6:1: reader house",
    "there is a reader house already"
)]
fn a_mistake_in_a_reader_is_an_error_at_its_line(
    #[case] rest: &str,
    #[case] place: &str,
    #[case] part: &str,
) {
    let error = error(&format!("{HEAD}{rest}\n"));
    assert!(error.contains(part), "{error}");
    assert!(
        error.contains(&format!("corvant.toml:{}", place.split(':').next().unwrap())),
        "{place}: {error}"
    );
    let subject = place.rsplit(": ").next().unwrap().trim_end_matches(": `1`");
    assert!(error.contains(subject) || place.contains('`'), "{subject}: {error}");
}

#[rstest]
#[case::two_readers(&format!("{HEAD}[[reader]]\nname = \"other\"\nfiles = [\"*.yaml\"]\nsyntax = \"yaml\"\nmodule = \"m\"\n"), "the reader other is for a.yaml, and so is the reader house")]
#[case::own_format(&HEAD.replace("a.yaml", "*.yaml"), "is for b.wiring.yaml, and so is Corvant's own format")]
fn files_that_two_claim_are_an_error(#[case] toml: &str, #[case] part: &str) {
    let error = error(toml);
    assert!(error.contains(part), "{error}");
}

#[test]
fn a_reader_without_files_is_said() {
    let toml = HEAD.replace("a.yaml", "gone/*.yaml");
    let read = workspace::from_texts([("corvant.toml", toml.as_str())]).unwrap();
    assert_eq!(read.blind_spots.len(), 1);
    assert!(read.blind_spots[0].message.contains("gone/*.yaml"), "{:?}", read.blind_spots);
}

/// Rule and subject of all findings in made files.
fn found_in(files: impl Iterator<Item = corvant_testing::corpus::File>) -> Vec<(&'static str, String)> {
    let files: Vec<(String, String)> = files.map(|file| (file.path, file.text)).collect();
    let read =
        workspace::from_texts(files.iter().map(|(path, text)| (path.as_str(), text.as_str()))).unwrap();
    let wiring = corvant_core::wiring::link(read.manifests, read.names, read.policy);
    let report = corvant_core::audit::audit(&wiring, &corvant_core::audit::Options::default());
    // That the files have not all that the reader can take is no fault of theirs.
    let is_idle = |found: &&Finding| {
        wiring.path(found.places[0].source) == "corvant.toml" && found.rule.name == "wrong-shape"
    };
    let told = report.findings.iter().filter(|found| !is_idle(found));
    let mut found: Vec<_> = told.map(|found| (found.rule.name, found.subject.clone())).collect();
    found.sort();
    found
}

/// What the reader of `house.toml` is not custom: the shape of the format, what may be said of attributes and
/// allowances.
const NOT_CUSTOM: [&str; 7] = [
    "unknown-field",
    "wrong-shape",
    "unreadable-file",
    "empty-file",
    "tag-attribute",
    "tag-order-tie",
    "stale-allowance",
];

#[test]
fn a_custom_reader_sees_what_the_own_format_says() {
    use corvant_testing::corpus::Made;
    use corvant_testing::house::house;
    for seed in 0..20 {
        let clean = Made { services: 400, faults: 0, stages: 0, seed };
        assert_eq!(found_in(house(clean)), []);
        let made = Made { faults: 1, ..clean };
        let is_custom = |(rule, _): &(&str, String)| !NOT_CUSTOM.contains(rule);
        let own: Vec<_> = found_in(made.files()).into_iter().filter(is_custom).collect();
        let custom: Vec<_> = found_in(house(made)).into_iter().filter(is_custom).collect();
        assert_eq!(own, custom, "seed {seed}");
    }
}

/// A reader that takes a service from wherever its syntax has one.
fn one_service(syntax: &str, path: &str, file: &str) -> String {
    let takes = format!("[[reader.take]]\nwhat = \"service\"\neach = \"{path}\"\nid = {{ key = true }}\n");
    custom(syntax, &takes, file)
}

#[rstest]
#[case::yaml("yaml", "a: [", 1)]
#[case::json("json", "{\"a\": }", 1)]
#[case::toml("toml", "a = 1\nb =", 2)]
#[case::xml("xml", "<a>\n<b></a>", 2)]
#[case::xml_entity("xml", "<a>\n\n&nothing;</a>", 3)]
#[case::ini("ini", "a=1\n[b", 2)]
#[case::properties("properties", "a=1\nb=\\u00x0", 2)]
#[case::records("records", "A: b\n\nnonsense", 3)]
fn a_broken_file_is_a_finding_with_its_line(#[case] syntax: &str, #[case] file: &str, #[case] line: u32) {
    let text = one_service(syntax, "$.*", file);
    let wiring = corvant_testing::wiring_of(&text);
    let report = corvant_core::audit::audit(&wiring, &corvant_core::audit::Options::default());
    assert_eq!(report.findings.len(), 1, "{:#?}", report.findings);
    let place = &report.findings[0].places[0];
    assert_eq!(report.findings[0].rule.name, "unreadable-file");
    assert_eq!(wiring.sources[place.source.index()].position(place.span.start).line, line);
    // It is the reader's file all the same.
    assert_eq!(report.readers[0].reader.map(|reader| wiring.text(reader)), Some("house"));
}

#[rstest]
#[case::yaml("yaml", "$.a.*", "a: { x.y: 1 }", 1, 6)]
#[case::json("json", "$.a.*", "{ \"a\": {\n \"x.y\": 1 } }", 2, 2)]
#[case::toml("toml", "$.a.*", "[a]\n\"x.y\" = 1", 2, 1)]
#[case::xml("xml", "$.a.*", "<a\n x.y='1'/>", 2, 2)]
#[case::ini("ini", "$.a.*", "[a]\n x.y = 1", 2, 2)]
#[case::properties("properties", "$.*", "# c\n  x.y: 1", 2, 3)]
#[case::records("records", "$[0].*", "x.y: 1", 1, 1)]
fn every_syntax_keeps_its_places(
    #[case] syntax: &str,
    #[case] path: &str,
    #[case] file: &str,
    #[case] line: u32,
    #[case] column: u32,
) {
    // A second definition in Corvant's own format makes a finding at the first.
    let own = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices: { x.y: {}, '@x.y': {} }\n";
    let text = format!("{}{own}", one_service(syntax, path, file));
    let wiring = corvant_testing::wiring_of(&text);
    let report = corvant_core::audit::audit(&wiring, &corvant_core::audit::Options::default());
    let found = report.findings.iter().find(|found| found.rule.name == "duplicate-service");
    let found = found.unwrap_or_else(|| panic!("{:#?}", report.findings));
    let place = found.places.iter().find(|place| wiring.path(place.source) == "house.txt").unwrap();
    let position = wiring.sources[place.source.index()].position(place.span.start);
    assert_eq!((position.line, position.column), (line, column));
}

#[rstest]
#[case::as_it_is("\"$.x\"", "x: a.b", &["a.b"])]
#[case::constant("\"clock\"", "y: 1", &["clock"])]
#[case::a_list("\"$.x\"", "x: [a, b]", &["a", "b"])]
#[case::split("{ from = \"$.x\", split = \",\" }", "x: a, b ,, c", &["a", "b", "c"])]
#[case::matched("{ from = \"$.x\", match = '#(\\w+)' }", "x: a#b", &["b"])]
#[case::matched_whole("{ from = \"$.x\", match = '\\w+$' }", "x: a#b", &["b"])]
#[case::not_matched("{ from = \"$.x\", match = '%' }", "x: a#b", &[])]
#[case::not_matched_and_absent("{ from = \"$.x\", match = '%', absent = \"n\" }", "x: a#b", &["n"])]
#[case::last_part("{ from = \"$.x\", last-part = true }", "x: a\\B", &["B"])]
#[case::case("{ from = \"$.x\", last-part = true, case = \"snake\" }", "x: a.NightGate", &["night_gate"])]
#[case::form("{ from = \"$.x\", form = \"{module}:{file}:{}\" }", "x: a", &["depot:house:a"])]
#[case::map("{ from = \"$.x\", map = { yes = \"a\", no = \"b\" } }", "x: [yes, no, a, c]", &["a", "b", "a"])]
#[case::map_of_all("{ from = \"$.x\", map = { yes = \"a\", '*' = \"b\" } }", "x: [yes, no]", &["a", "b"])]
#[case::spaces_around("{ from = \"$.x\" }", "x: ' a b '", &["a b"])]
#[case::first_lower("{ from = \"$.x\", case = \"first-lower\" }", "x: [NightGate, URL]", &["nightGate", "uRL"])]
#[case::file_in_a_case("{ from = \"$.x\", case = \"upper\", form = \"{file}.{}\" }", "x: a", &["HOUSE.A"])]
#[case::any("{ any = [\"$.a\", \"$.x\", \"$.y\"] }", "x: 1\ny: 2", &["1"])]
#[case::joined("{ joined = [\"$.a\", \"$.b\"] }", "a: depot\nb: gate", &["depot.gate"])]
#[case::joined_otherwise("{ joined = [\"$.a\", \"$.b\"], between = \"/\" }", "a: depot\nb: gate", &["depot/gate"])]
#[case::joined_of_too_few("{ joined = [\"$.a\", \"$.b\"] }", "a: depot", &[])]
#[case::within_then_split("{ from = \"$.x\", within = 'uses\\((.*)\\)', split = \",\" }", "x: uses(a, b)", &["a", "b"])]
#[case::absent_from_elsewhere("{ from = \"$.x\", absent = \"$.all.x\" }", "all: { x: n }", &["n"])]
#[case::absent("{ from = \"$.x\", absent = \"n\" }", "y: 1", &["n"])]
#[case::nothing_written("{ from = \"$.x\", absent = \"n\" }", "x: null", &["n"])]
#[case::keys("{ from = \"$.x.*\", key = true }", "x: { a: 1, b: 2 }", &["a", "b"])]
#[case::split_then_matched("{ from = \"$.x\", split = \" \", match = '^~(.+)' }", "x: ~a b ~c", &["a", "c"])]
fn fields_make_names(#[case] field: &str, #[case] file: &str, #[case] expected: &[&str]) {
    let takes = format!("[[reader.take]]\nwhat = \"service\"\nid = \"s\"\noffers = {field}\n");
    let text = custom("yaml", &takes, file);
    let wiring = corvant_testing::wiring_of(&text);
    let offers = wiring.facts.services[0].offers.of(&wiring.facts.parts);
    assert_eq!(offers.iter().map(|offer| wiring.text(offer.name)).collect::<Vec<_>>(), expected);
}

#[test]
fn parts_of_a_text_keep_places_of_their_own() {
    let takes = "[[reader.take]]\nwhat = \"entry\"\nid = \"e\"\n[[reader.take.need]]\n\
        service = { from = \"$.a.needs\", split = \"\\n\", match = '^(\\S+)' }\n";
    expect(&custom(
        "ini",
        takes,
        "[a]\nneeds =\n  depot.one # first\n  ^^^^^^^^^ missing-service depot.one\n  depot.two\n  ^^^^^^^^^ missing-service depot.two",
    ));
}

/// Rule and subject of all that is found, in order.
fn found(text: &str) -> Vec<String> {
    let found = messages(text);
    let mut found: Vec<String> =
        found.iter().map(|found| format!("{} {}", found.rule, found.subject)).collect();
    found.sort();
    found
}

#[test]
fn a_path_that_would_look_at_far_more_than_there_is_is_not_followed() {
    let takes =
        |each: &str| format!("[[reader.take]]\nwhat = \"service\"\neach = \"{each}\"\nid = \"$.id\"\n");
    let deep = format!("{}1{}", "[".repeat(150), "]".repeat(150));
    let refused = messages(&custom("json", &takes("$..*..*..*..*..*"), &deep));
    assert!(refused[0].text.contains("would look at more than 2000000 values here"), "{refused:#?}");
    // Twice down is followed, as deep as texts may be.
    let followed = found(&custom("json", &takes("$..*..*"), &deep));
    assert_eq!(followed, ["empty-file house.txt", "wrong-shape reader house"]);
}

#[test]
fn no_expression_is_looked_for_in_a_text_without_end() {
    let long = "~depot.gate ".repeat(6_000);
    let refused = messages(&with_needs(&format!("page: {{ x: \"{long}\", y: ~depot.a }}")));
    let text = |rule: &str| refused.iter().find(|found| found.rule == rule).map(|found| found.text.as_str());
    assert!(text("wrong-shape").is_some_and(|text| text.contains("longer than 64 KiB")), "{refused:#?}");
    assert!(text("missing-service").is_some_and(|text| text.contains("depot.a")), "{refused:#?}");
}

#[test]
fn readers_and_lifetimes_have_a_number_that_is_enough() {
    let reader = |n: usize| {
        format!(
            "[[reader]]\nname = \"r{n}\"\nfiles = [\"{n}.txt\"]\nsyntax = \"yaml\"\nmodule = \"m\"\n[[reader.take]]\nwhat = \"service\"\nid = \"$\"\n"
        )
    };
    let readers = |count: usize| (0..count).map(reader).collect::<String>();
    assert!(error(&readers(251)).contains("there are more than 250 readers"));
    let lifetimes = |count: usize| {
        let words: Vec<String> = (0..count).map(|n| format!("'l{n}'")).collect();
        format!(
            "//- corvant.toml\n[lifetimes]\norder = [{}]\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\nuses: []\n",
            words.join(", ")
        )
    };
    assert_eq!(found(&lifetimes(101)), ["wrong-shape lifetimes.order"]);
    assert_eq!(found(&lifetimes(100)), [""; 0]);
}

#[test]
fn what_stands_above_many_items_is_taken_for_each() {
    let takes = "[[reader.take]]\nwhat = \"service\"\neach = \"$.all[*].it\"\nid = \"$.id\"\ntype = { from = \"$.type\", above = 2 }\n\
        lifetime = { from = \"$.life[1]\", above = 1 }\n[[reader.take]]\nwhat = \"expectation\"\neach = \"$.expected[*]\"\nservice = \"$.id\"\ntype = \"$.type\"\nlifetime = \"$.life\"\n";
    let file = "{\"type\": \"velmora.One\", \"all\": [{\"it\": {\"id\": \"a\"}, \"life\": [0, \"process\"]}, {\"it\": {\"id\": \"b\"}, \"life\": [0, \"request\"]}], \
        \"expected\": [{\"id\": \"a\", \"type\": \"velmora.One\", \"life\": \"process\"}, {\"id\": \"b\", \"type\": \"velmora.One\", \"life\": \"process\"}]}";
    assert_eq!(found(&custom("json", takes, file)), ["unmet-expectation b"]);
}
