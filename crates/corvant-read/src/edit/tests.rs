//! Each action in each syntax: the place is between `«` and `»`, and what is asked for is compared byte by byte.

use super::document::Document;
use super::edited;
use crate::syntax::ManifestSyntax;
use ManifestSyntax::{Json, Toml, Yaml};
use corvant_core::finding::{Action, Change, Value};
use corvant_core::source::{SourceIndex, Span};
use rstest::rstest;

/// A text after a change at the marked place; `None`: the change cannot be made.
fn after(syntax: Option<ManifestSyntax>, marked: &str, action: Action) -> Option<String> {
    let start = marked.find('«').unwrap();
    let end = marked.find('»').unwrap() - '«'.len_utf8();
    let text = marked.replace(['«', '»'], "");
    let change = Change::new(SourceIndex(0), Span::new(start, end), action);
    let edits = Document::new(SourceIndex(0), &text, syntax).edits(&change)?;
    Some(edited(&text, &edits))
}

fn rename(from: &str, to: &str) -> Action {
    Action::Rename { from: from.to_owned(), to: to.to_owned() }
}

#[rstest]
#[case::plain(Yaml, "{ service: «a.flet» }", Some("{ service: a.fleet }"))]
#[case::in_quotes(Yaml, "{ service: «'a.flet'» }", Some("{ service: 'a.fleet' }"))]
#[case::json(Json, r#"{"service": «"a.flet"»}"#, Some(r#"{"service": "a.fleet"}"#))]
#[case::toml(Toml, "service = «\"a.flet\"»", Some("service = \"a.fleet\""))]
#[case::written_otherwise(Json, r#"{"service": «"a.\u0066let"»}"#, None)]
#[case::another_name(Yaml, "{ service: «b.flet» }", None)]
fn a_name_becomes_another(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] expected: Option<&str>,
) {
    assert_eq!(after(Some(syntax), text, rename("a.flet", "a.fleet")).as_deref(), expected);
}

#[rstest]
#[case::xml("<ref id=\"«a.flet»\"/>", "a.fleet", Some("<ref id=\"a.fleet\"/>"))]
#[case::behind_a_sign("@«a.flet»", "a.fleet", Some("@a.fleet"))]
#[case::what_may_need_escapes("<ref id=\"«a.flet»\"/>", "a<fleet>", None)]
fn in_an_unknown_syntax_simple_names_are_exchanged(
    #[case] text: &str,
    #[case] to: &str,
    #[case] expected: Option<&str>,
) {
    assert_eq!(after(None, text, rename("a.flet", to)).as_deref(), expected);
}

#[rstest]
#[case::flag(Yaml, "lazy: «yes»", Value::Flag(true), "lazy: true")]
#[case::number(Yaml, "key: «5»", Value::Text("5".into()), "key: \"5\"")]
#[case::one(Yaml, "tags: «rule»", Value::List(vec!["rule".into()]), "tags: [rule]")]
#[case::with_a_comma(Yaml, "tags: «\"a, b\"»", Value::List(vec!["a, b".into()]), "tags: [\"a, b\"]")]
#[case::json(Json, r#"{"tags": «"rule"»}"#, Value::List(vec!["rule".into()]), r#"{"tags": ["rule"]}"#)]
#[case::toml(Toml, "tags = «\"rule\"»", Value::List(vec!["rule".into()]), "tags = [\"rule\"]")]
#[case::looks_like_a_flag(Yaml, "tags: «\"true\"»", Value::List(vec!["true".into()]), "tags: [\"true\"]")]
fn a_value_becomes_another(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] value: Value,
    #[case] expected: &str,
) {
    assert_eq!(after(Some(syntax), text, Action::Set(value)).as_deref(), Some(expected));
}

#[rstest]
#[case::first_between(Yaml, "uses: [«a», b]", "uses: [b]")]
#[case::last_between(Yaml, "uses: [a, «b»]", "uses: [a]")]
#[case::only_between(Yaml, "uses: [ «a» ]\n", "uses: []\n")]
#[case::lines_between(Json, "{\"uses\": [\n  \"a\",\n  «\"b\"»\n]}", "{\"uses\": [\n  \"a\"\n]}")]
#[case::a_line_between(Json, "{\"uses\": [\n  «\"a\"»,\n  \"b\"\n]}", "{\"uses\": [\n  \"b\"\n]}")]
#[case::trailing_comma(Toml, "uses = [\n  \"a\",\n  «\"b\"», # gone\n]\n", "uses = [\n  \"a\",\n]\n")]
#[case::dash(Yaml, "uses:\n  - «a» # gone\n  - b # stays\n", "uses:\n  - b # stays\n")]
#[case::last_dash(Yaml, "uses:\n  - a\n  - «b»", "uses:\n  - a\n")]
#[case::only_dash(Yaml, "uses:\n  - «a»\ntags: {}\n", "uses: []\ntags: {}\n")]
#[case::line_breaks_of_two(Yaml, "uses:\r\n  - «a»\r\n  - b\r\n", "uses:\r\n  - b\r\n")]
#[case::field_between(Yaml, "m: { «a»: 1, b: 2 }", "m: { b: 2 }")]
#[case::field_on_lines(
    Yaml,
    "m:\n  «a»:\n    - 1\n    - 2\n  # about b\n  b: 2\n",
    "m:\n  # about b\n  b: 2\n"
)]
#[case::map_in_a_list(Yaml, "tags:\n  - «rule»: { order: 1 }\n  - other\n", "tags:\n  - other\n")]
#[case::line_of_a_table(Toml, "[m]\n«a» = 1\nb = 2\n", "[m]\nb = 2\n")]
#[case::section(
    Toml,
    "[m.«\"a.b\"»]\nx = 1\n[m.\"a.b\".needs]\ny = 2\n\n[m.\"c.d\"]\nz = 3\n",
    "[m.\"c.d\"]\nz = 3\n"
)]
fn an_item_or_a_field_is_taken_out(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] expected: &str,
) {
    assert_eq!(after(Some(syntax), text, Action::TakeOut).as_deref(), Some(expected));
}

#[rstest]
#[case::two_on_a_line(Yaml, "- - «a»\n  - b\n")]
#[case::more_on_the_line(Yaml, "- «a»: 1\n  b: 2\n")]
#[case::dotted(Toml, "[m]\nx.«a» = 1\n")]
#[case::another_table_between(Toml, "[m.«a»]\nx = 1\n[n]\ny = 2\n[m.a.z]\nw = 3\n")]
fn what_shares_its_lines_stays(#[case] syntax: ManifestSyntax, #[case] text: &str) {
    assert_eq!(after(Some(syntax), text, Action::TakeOut), None);
}

#[rstest]
#[case::section(
    Toml,
    "[[allow]]\nrule = \"a\"\nsubject = «\"b\"»\n\n[[allow]]\nrule = \"c\"\n",
    "[[allow]]\nrule = \"c\"\n"
)]
#[case::dash(Yaml, "allow:\n  - rule: a\n    subject: «b»\n  - rule: c\n", "allow:\n  - rule: c\n")]
#[case::between(Json, r#"{"allow": [{"subject": «"b"»}, {"rule": 1}]}"#, r#"{"allow": [{"rule": 1}]}"#)]
fn the_item_around_a_value_is_taken_out(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] expected: &str,
) {
    assert_eq!(after(Some(syntax), text, Action::TakeOutItem).as_deref(), Some(expected));
}

#[rstest]
#[case::between(Yaml, "a: { «x»: { service: b } }", "a: { x: { service: b, lazy: true } }")]
#[case::empty(Yaml, "«x»: {}", "x: { lazy: true }")]
#[case::nothing(Yaml, "«x»: # for now\ny: 1\n", "x: { lazy: true } # for now\ny: 1\n")]
#[case::lines(
    Yaml,
    "«x»:\n  service: b # of ours\n  key: c\n",
    "x:\n  service: b # of ours\n  lazy: true\n  key: c\n"
)]
#[case::no_last_line_break(Yaml, "«x»:\n  service: b", "x:\n  service: b\n  lazy: true")]
#[case::first_is_long(
    Yaml,
    "«x»:\n  needs:\n    a: 1\n  type: B\n",
    "x:\n  needs:\n    a: 1\n  type: B\n  lazy: true\n"
)]
#[case::json(Json, r#"{"«x»": {"service": "b"}}"#, r#"{"x": {"service": "b", "lazy": true}}"#)]
#[case::json_lines(
    Json,
    "{«\"x\"»: {\n  \"service\": \"b\"\n}}",
    "{\"x\": {\n  \"service\": \"b\",\n  \"lazy\": true\n}}"
)]
#[case::inline_table(Toml, "«x» = { service = \"b\" }", "x = { service = \"b\", lazy = true }")]
#[case::table(Toml, "[«x»]\nservice = \"b\"\n[y]\n", "[x]\nservice = \"b\"\nlazy = true\n[y]\n")]
#[case::table_of_tables(Toml, "[«x»]\n[x.needs]\na = 1\n", "[x]\nlazy = true\n[x.needs]\na = 1\n")]
fn a_map_gains_a_field(#[case] syntax: ManifestSyntax, #[case] text: &str, #[case] expected: &str) {
    // A key of JSON has its quotes in its place.
    let text = text.replace("\"«x»\"", "«\"x\"»");
    let action = Action::Give("lazy", Value::Flag(true));
    assert_eq!(after(Some(syntax), &text, action).as_deref(), Some(expected));
}

#[rstest]
#[case::between(Yaml, "«a.x»: { tags: [one] }", "a.x: { tags: [one, new] }")]
#[case::empty(Yaml, "«a.x»: { tags: [] }", "a.x: { tags: [new] }")]
#[case::absent(Yaml, "«a.x»: { type: X }", "a.x: { type: X, tags: [new] }")]
#[case::dashes(
    Yaml,
    "«a.x»:\n  tags:\n    - one: { order: 1 } # first\n  type: X\n",
    "a.x:\n  tags:\n    - one: { order: 1 } # first\n    - new\n  type: X\n"
)]
#[case::lines_between(
    Json,
    "{«\"a.x\"»: {\"tags\": [\n  \"one\"\n]}}",
    "{\"a.x\": {\"tags\": [\n  \"one\",\n  \"new\"\n]}}"
)]
#[case::toml(Toml, "[«\"a.x\"»]\ntags = [\"one\"]\n", "[\"a.x\"]\ntags = [\"one\", \"new\"]\n")]
#[case::whole_file(Yaml, "«»tags: [one]\n", "tags: [one, new]\n")]
fn a_list_gains_a_name(#[case] syntax: ManifestSyntax, #[case] text: &str, #[case] expected: &str) {
    let action = Action::Append("tags", "new".to_owned());
    assert_eq!(after(Some(syntax), text, action).as_deref(), Some(expected));
}

/// Behind the last of a list, whichever of its items is meant.
#[rstest]
#[case::between(Yaml, "roster: [«a», b] # all\n", "roster: [a, b, c, d] # all\n")]
#[case::dashes(
    Yaml,
    "roster:\n  - «a»\n  - b # last\nmore: 1\n",
    "roster:\n  - a\n  - b # last\n  - c\n  - d\nmore: 1\n"
)]
#[case::lines_between(
    Json,
    "{\"roster\": [\n  «\"a\"»\n]}",
    "{\"roster\": [\n  \"a\",\n  \"c\",\n  \"d\"\n]}"
)]
#[case::toml(Toml, "roster = [«\"a\"»]\n", "roster = [\"a\", \"c\", \"d\"]\n")]
fn a_list_gains_names_behind_its_last(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] expected: &str,
) {
    let action = Action::AppendBeside(vec!["c".to_owned(), "d".to_owned()]);
    assert_eq!(after(Some(syntax), text, action).as_deref(), Some(expected));
}

/// What stands behind an item goes, as it is written; what cannot be told apart stays.
#[rstest]
#[case::between(Yaml, "roster: [«a», b, c] # all\n", Some("roster: [a] # all\n"))]
#[case::dashes(
    Yaml,
    "roster:\n  - «a» # first\n  - b\n  - c\nmore: 1\n",
    Some("roster:\n  - a # first\nmore: 1\n")
)]
#[case::comma_at_the_end(Toml, "roster = [\n  «\"a\"»,\n  \"b\",\n]\n", Some("roster = [\n  \"a\",\n]\n"))]
#[case::nothing_behind(Yaml, "roster: [a, «b»]\n", Some("roster: [a, b]\n"))]
#[case::several_on_a_line(Yaml, "roster:\n  - - «a»\n    - b\n", None)]
fn what_stands_behind_an_item_goes(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] expected: Option<&str>,
) {
    assert_eq!(after(Some(syntax), text, Action::TakeOutBehind).as_deref(), expected);
}

#[rstest]
#[case::between(Yaml, "roster: [a, b, «c»]", 9..10, "roster: [c, a, b]")]
#[case::dashes(Yaml, "roster:\n  - a # first\n  - b\n  - «c»\n", 12..13, "roster:\n  - c # first\n  - a\n  - b\n")]
fn an_item_moves_up(
    #[case] syntax: ManifestSyntax,
    #[case] text: &str,
    #[case] before: std::ops::Range<usize>,
    #[case] expected: &str,
) {
    let action = Action::MoveBefore(Span::new(before.start, before.end));
    assert_eq!(after(Some(syntax), text, action).as_deref(), Some(expected));
}

/// Over many items the item alone moves, with its line if it has a dash.
#[rstest]
#[case::between(Yaml, "a", "uses: [a, MANY, «z»]\n", ", ", "uses: [z, a, MANY]\n")]
#[case::lines_between(
    Toml,
    "'a'",
    "roster = [\n  'a',\n  MANY,\n  «'z'»,\n]\n",
    ",\n  ",
    "roster = [\n  'z',\n  'a',\n  MANY,\n]\n"
)]
#[case::dashes(
    Yaml,
    "a",
    "uses:\n  - a # first\n  - MANY\n  - «z» # last\n",
    "\n  - ",
    "uses:\n  - z # last\n  - a # first\n  - MANY\n"
)]
#[case::no_last_line_break(Yaml, "a", "uses:\n- a\n- MANY\n- «z»", "\n- ", "uses:\n- z\n- a\n- MANY\n")]
fn an_item_moves_up_past_many(
    #[case] syntax: ManifestSyntax,
    #[case] first: &str,
    #[case] text: &str,
    #[case] between: &str,
    #[case] expected: &str,
) {
    let many: Vec<String> = (0..40).map(|number| number.to_string()).collect();
    let with_many = |text: &str| text.replace("MANY", &many.join(between));
    let at = text.find(first).unwrap();
    let action = Action::MoveBefore(Span::new(at, at + first.len()));
    assert_eq!(after(Some(syntax), &with_many(text), action), Some(with_many(expected)));
}

#[rstest]
#[case::between(Yaml, "«a.x»: { type: X, default: true }", "a.x: { type: X }")]
#[case::lines(Yaml, "«a.x»:\n  default: true\n  type: X\n", "a.x:\n  type: X\n")]
fn a_map_loses_a_field(#[case] syntax: ManifestSyntax, #[case] text: &str, #[case] expected: &str) {
    assert_eq!(after(Some(syntax), text, Action::Withdraw("default")).as_deref(), Some(expected));
}
