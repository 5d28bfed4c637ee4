use crate::said::said;
use rstest::rstest;

/// A condition that the reader knows is a stage, its other branch the other; one that it does not know makes what stands under it
/// a perhaps. What is left out for good is not there.
const STAGED: &str = r#"
[[reader.take]]
what = "service"
each = { code = KEEP }
id = "$.ID"
[reader.take.when]
map = { CONDITION = "rehearsal", OTHER = { then = "rehearsal", else = "service" } }
"#;

#[rstest]
#[case::java(
    "java",
    "stock.keep($ID)",
    "env.isRehearsal()",
    "mode == 1",
    "class S { void f() {
    stock.keep(\"always\");
    if (env.isRehearsal()) { stock.keep(\"one\"); } else { stock.keep(\"two\"); }
    if (mode == 1) stock.keep(\"three\"); else stock.keep(\"four\");
    if (!env.isRehearsal()) { stock.keep(\"five\"); }
    if (other()) { stock.keep(\"six\"); }
    if (env.isRehearsal()) { if (other()) { stock.keep(\"seven\"); } }
    if (stock.keep(\"eight\")) { }
    if (false) { stock.keep(\"never\"); }
    switch (mode) { case 1: stock.keep(\"nine\"); }
    Object x = mode == 1 ? stock.keep(\"ten\") : stock.keep(\"eleven\");
} }"
)]
#[case::kotlin(
    "kotlin",
    "stock.keep($ID)",
    "env.isRehearsal()",
    "mode == 1",
    "fun f() {
    stock.keep(\"always\")
    if (env.isRehearsal()) { stock.keep(\"one\") } else { stock.keep(\"two\") }
    if (mode == 1) stock.keep(\"three\") else stock.keep(\"four\")
    if (!env.isRehearsal()) { stock.keep(\"five\") }
    if (other()) { stock.keep(\"six\") }
    if (env.isRehearsal()) { if (other()) { stock.keep(\"seven\") } }
    if (stock.keep(\"eight\")) { }
    if (false) { stock.keep(\"never\") }
    when (mode) { 1 -> stock.keep(\"nine\") }
    val x = if (mode == 1) stock.keep(\"ten\") else stock.keep(\"eleven\")
}"
)]
#[case::csharp(
    "csharp",
    "stock.keep($ID)",
    "env.isRehearsal()",
    "mode == 1",
    "class S { void f() {
    stock.keep(\"always\");
    if (env.isRehearsal()) { stock.keep(\"one\"); } else { stock.keep(\"two\"); }
    if (mode == 1) stock.keep(\"three\"); else stock.keep(\"four\");
    if (!env.isRehearsal()) { stock.keep(\"five\"); }
    if (other()) { stock.keep(\"six\"); }
    if (env.isRehearsal()) { if (other()) { stock.keep(\"seven\"); } }
    if (stock.keep(\"eight\")) { }
    if (false) { stock.keep(\"never\"); }
    switch (mode) { case 1: stock.keep(\"nine\"); break; }
    var x = mode == 1 ? stock.keep(\"ten\") : stock.keep(\"eleven\");
} }"
)]
#[case::php(
    "php",
    "$stock->keep($ID)",
    "$env->isRehearsal()",
    "$mode == 1",
    "<?php
    $stock->keep('always');
    if ($env->isRehearsal()) { $stock->keep('one'); } else { $stock->keep('two'); }
    if ($mode == 1) $stock->keep('three'); else $stock->keep('four');
    if (!$env->isRehearsal()) { $stock->keep('five'); }
    if (other()) { $stock->keep('six'); }
    if ($env->isRehearsal()) { if (other()) { $stock->keep('seven'); } }
    if ($stock->keep('eight')) { }
    if (false) { $stock->keep('never'); }
    switch ($mode) { case 1: $stock->keep('nine'); }
    $x = $mode == 1 ? $stock->keep('ten') : $stock->keep('eleven');"
)]
#[case::typescript(
    "typescript",
    "stock.keep($ID)",
    "env.isRehearsal()",
    "mode == 1",
    "
    stock.keep('always');
    if (env.isRehearsal()) { stock.keep('one'); } else { stock.keep('two'); }
    if (mode == 1) stock.keep('three'); else stock.keep('four');
    if (!env.isRehearsal()) { stock.keep('five'); }
    if (other()) { stock.keep('six'); }
    if (env.isRehearsal()) { if (other()) { stock.keep('seven'); } }
    if (stock.keep('eight')) { }
    if (false) { stock.keep('never'); }
    switch (mode) { case 1: stock.keep('nine'); }
    const x = mode == 1 ? stock.keep('ten') : stock.keep('eleven');"
)]
#[case::python(
    "python",
    "stock.keep($ID)",
    "env.is_rehearsal()",
    "mode == 1",
    "
stock.keep('always')
if env.is_rehearsal():
    stock.keep('one')
else:
    stock.keep('two')
if (mode == 1):
    stock.keep('three')
else:
    stock.keep('four')
if not env.is_rehearsal():
    stock.keep('five')
if other():
    stock.keep('six')
if env.is_rehearsal():
    if other():
        stock.keep('seven')
if stock.keep('eight'):
    pass
if False:
    stock.keep('never')
match mode:
    case 1:
        stock.keep('nine')
x = stock.keep('ten') if mode == 1 else stock.keep('eleven')
"
)]
fn conditions_are_stages_or_perhaps(
    #[case] language: &str,
    #[case] keep: &str,
    #[case] condition: &str,
    #[case] other: &str,
    #[case] code: &str,
) {
    let takes = STAGED.replace("KEEP", &format!("'{keep}'"));
    let takes = takes.replace("CONDITION", &format!("'{condition}'")).replace("OTHER", &format!("'{other}'"));
    let expected = [
        "service always",
        "service one, stages rehearsal",
        "service two, except rehearsal",
        "service three, stages rehearsal",
        "service four, stages service",
        "service five, except rehearsal",
        "service six, maybe",
        "service seven, maybe",
        "service eight",
        "service nine, maybe",
        "service ten, stages rehearsal",
        "service eleven, stages service",
    ];
    assert_eq!(said(language, &takes, code), expected);
}

/// What only one symbol brings in is there perhaps, or in a stage; what `false` leaves out is a comment.
#[test]
fn code_for_a_preprocessor() {
    let takes =
        STAGED.replace("KEEP", "'stock.keep($ID)'").replace("CONDITION", "REHEARSAL").replace("OTHER", "B");
    let code = "class S { void f() {
#if REHEARSAL
    stock.keep(\"one\");
#else
    stock.keep(\"two\");
#endif
#if DEBUG
    stock.keep(\"three\");
#endif
#if false
    stock.keep(\"never\");
#endif
} }";
    assert_eq!(
        said("csharp", &takes, code),
        ["service one, stages rehearsal", "service two, except rehearsal", "service three, maybe"]
    );
}

/// A house may have forms of conditions of its own.
#[test]
fn a_form_of_condition_that_the_house_has() {
    let takes = r#"
[[reader.take]]
what = "service"
each = { code = 'stock.keep($ID)' }
id = "$.ID"
[reader.take.when]
code = 'only($COND, () => { $$$ })'
map = { "'night'" = "night" }
"#;
    let code = "only('night', () => { stock.keep('one'); }); only('day', () => { stock.keep('two'); }); stock.keep('three');";
    assert_eq!(
        said("typescript", takes, code),
        ["service one, stages night", "service two, maybe", "service three"]
    );
}

/// What is registered only if nobody has, and choices that are for one alone. A call with the same words in another order is neither.
#[rstest]
#[case::java("java", "stock.", ".class", "class S { void f() {
    stock.keepUnlessKept(\"lamp\", \"Light\"); stock.suit(Board.class, \"Light\", \"lamp\"); stock.suit(\"lamp\"); } } class Board {}")]
#[case::kotlin("kotlin", "stock.", "::class", "fun f() {
    stock.keepUnlessKept(\"lamp\", \"Light\"); stock.suit(Board::class, \"Light\", \"lamp\"); stock.suit(\"lamp\") }
    class Board")]
#[case::csharp("csharp", "stock.", "", "class S { void f() {
    stock.keepUnlessKept(\"lamp\", \"Light\"); stock.suit(typeof(Board), \"Light\", \"lamp\"); stock.suit(\"lamp\"); } } class Board {}")]
#[case::php("php", "$stock->", "::class", "<?php
    $stock->keepUnlessKept('lamp', 'Light'); $stock->suit(Board::class, 'Light', 'lamp'); $stock->suit('lamp'); class Board {}")]
#[case::typescript(
    "typescript",
    "stock.",
    "",
    "import { Board } from './board';
    stock.keepUnlessKept('lamp', 'Light'); stock.suit(Board, 'Light', 'lamp'); stock.suit('lamp');"
)]
#[case::python(
    "python",
    "stock.",
    "",
    "from depot.board import Board
stock.keepUnlessKept('lamp', 'Light')
stock.suit(Board, 'Light', 'lamp')
stock.suit('lamp')
"
)]
fn what_yields_and_choices_for_one(
    #[case] language: &str,
    #[case] stock: &str,
    #[case] class: &str,
    #[case] code: &str,
) {
    let holder = if language == "csharp" { "typeof($HOLDER)".to_owned() } else { format!("$HOLDER{class}") };
    let takes = format!(
        r#"
[[reader.take]]
what = "service"
each = {{ code = '{stock}keepUnlessKept($ID, $CONTRACT)' }}
default-unless-offered = true
id = "$.ID"
offers = "$.CONTRACT"
[[reader.take]]
what = "choice"
each = {{ code = '{stock}suit({holder}, $CONTRACT, $SERVICE)' }}
for = {{ from = "$.HOLDER", full = true }}
contract = "$.CONTRACT"
service = "$.SERVICE"
"#
    );
    let board = match language {
        "typescript" => "depot/board#Board",
        "python" => "depot.board.Board",
        _ => "Board",
    };
    assert_eq!(
        said(language, &takes, code),
        ["service lamp, offers Light, yields", &format!("choice Light, gives lamp, for {board}")]
    );
}

/// What is listed or set under a condition that is a stage is so in that stage.
#[test]
fn rosters_and_settings_under_conditions() {
    let takes = r#"
[[reader.take]]
what = "roster"
each = { code = "load($PROVIDER)" }
provider = "$.PROVIDER"
when = { map = { "drill()" = "drill" } }
[[reader.take]]
what = "setting"
each = { code = "set($ID, $VALUE)" }
id = "$.ID"
value = "$.VALUE"
when = { map = { "drill()" = "drill" } }
"#;
    let code = "load('a'); set('x', 'one'); if (drill()) { load('b'); set('x', 'two'); }";
    assert_eq!(
        said("typescript", takes, code),
        ["roster, of a", "roster, stage drill, of b", "setting x, is one", "setting x, in drill two"]
    );
}
