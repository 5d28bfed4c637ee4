use crate::said::{said, said_of};
use rstest::rstest;

/// Items may be what a hole holds: here a map of keys to types that are made by their names, and the list of providers.
const WRITTEN_OUT: &str = r#"
[[reader.take]]
what = "service"
each = { code = 'register($KINDS, $ALL)', items = "$.KINDS.*" }
id = { key = true, form = "board.{}" }
type = { from = "$", last-part = true }
offers = "Board"
key = { key = true }
[[reader.take]]
what = "roster"
each = { code = 'register($KINDS, $ALL)' }
provider = { from = "$.ALL[*]", last-part = true }
"#;

#[rstest]
#[case::java("java", "package v; class S { void f() {
    register(Map.of(\"small\", SmallBoard.class, \"large\", LargeBoard.class), List.of(DepotProvider.class, SignalProvider.class)); } }
    class SmallBoard {} class LargeBoard {}")]
#[case::kotlin("kotlin", "package v
    fun f() { register(mapOf(\"small\" to SmallBoard::class, \"large\" to LargeBoard::class), listOf(DepotProvider::class, SignalProvider::class)) }
    class SmallBoard
    class LargeBoard")]
#[case::csharp("csharp", "namespace v { class S { void f() {
    register(new Dictionary<string, Type> { [\"small\"] = typeof(SmallBoard), [\"large\"] = typeof(LargeBoard) }, new[] { typeof(DepotProvider), typeof(SignalProvider) }); } }
    class SmallBoard {} class LargeBoard {} }")]
#[case::php("php", "<?php namespace v;
    register(['small' => SmallBoard::class, 'large' => LargeBoard::class], [DepotProvider::class, SignalProvider::class]);
    class SmallBoard {} class LargeBoard {}")]
#[case::typescript(
    "typescript",
    "
    register({ small: SmallBoard, 'large': LargeBoard }, [DepotProvider, SignalProvider] as const);
    export class SmallBoard {} export class LargeBoard {}"
)]
#[case::python(
    "python",
    "
register({'small': SmallBoard, \"large\": LargeBoard}, [DepotProvider, SignalProvider])
class SmallBoard: pass
class LargeBoard: pass
"
)]
fn what_is_written_out(#[case] language: &str, #[case] code: &str) {
    assert_eq!(
        said(language, WRITTEN_OUT, code),
        [
            "service board.small, type SmallBoard, offers Board, key small",
            "service board.large, type LargeBoard, offers Board, key large",
            "roster, of DepotProvider + SignalProvider",
        ]
    );
}

/// Definitions that are written as data in a source file.
#[rstest]
#[case::java(
    "java",
    "'return $DATA;'",
    "depot/Services.java",
    "class Services { Object all() { return Map.of(
    \"depot.gate\", Map.of(\"class\", \"v.Gate\", \"needs\", List.of(\"depot.lock\"), \"shared\", true),
    \"depot.lock\", Map.of(\"class\", \"v.Lock\", \"shared\", false)); } }"
)]
#[case::kotlin(
    "kotlin",
    "'val services = $DATA'",
    "depot/Services.kt",
    "val services = mapOf(
    \"depot.gate\" to mapOf(\"class\" to \"v.Gate\", \"needs\" to listOf(\"depot.lock\"), \"shared\" to true),
    \"depot.lock\" to mapOf(\"class\" to \"v.Lock\", \"shared\" to false))"
)]
#[case::csharp("csharp", "'return $DATA;'", "depot/Services.cs", "class Services { object All() { return new Dictionary<string, object> {
    [\"depot.gate\"] = new Dictionary<string, object> { [\"class\"] = \"v.Gate\", [\"needs\"] = new[] { \"depot.lock\" }, [\"shared\"] = true },
    { \"depot.lock\", new Dictionary<string, object> { { \"class\", \"v.Lock\" }, { \"shared\", false } } } }; } }")]
#[case::php(
    "php",
    "'return $DATA;'",
    "depot/services.php",
    "<?php return [
    'depot.gate' => ['class' => 'v.Gate', 'needs' => ['depot.lock'], 'shared' => true],
    'depot.lock' => ['class' => 'v.Lock', 'shared' => false],
];"
)]
#[case::typescript(
    "typescript",
    "'export default $DATA'",
    "depot/services.ts",
    "export default {
    'depot.gate': { class: 'v.Gate', needs: ['depot.lock'], shared: true },
    \"depot.lock\": { class: 'v.Lock', shared: false },
};"
)]
#[case::python(
    "python",
    "'SERVICES = $DATA'",
    "depot/services.py",
    "SERVICES = {
    'depot.gate': {'class': 'v.Gate', 'needs': ['depot.lock'], 'shared': True},
    'depot.lock': {'class': 'v.Lock', 'shared': False},
}
"
)]
fn definitions_in_a_source_file(
    #[case] language: &str,
    #[case] pattern: &str,
    #[case] path: &str,
    #[case] code: &str,
) {
    let takes = format!(
        r#"
[[reader.take]]
what = "service"
each = {{ code = {pattern}, items = "$.DATA.*" }}
id = {{ key = true }}
type = "$.class"
lifetime = {{ from = "$.shared", map = {{ "true" = "process", "false" = "use" }} }}
[[reader.take.need]]
each = "$.needs[*]"
service = "$"
"#
    );
    assert_eq!(
        said_of(language, &takes, &[(path, code)]),
        [
            "service depot.gate, type v.Gate, lifetime process",
            "  needs service depot.lock",
            "service depot.lock, type v.Lock, lifetime use",
        ]
    );
}
