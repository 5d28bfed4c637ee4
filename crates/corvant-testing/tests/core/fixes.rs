//! What the files are after the fixes that rules propose.

use corvant_core::audit::{Options, Report, audit};
use corvant_core::finding::{Certainty, Edit, Finding};
use corvant_core::rules::TEXTS;
use corvant_core::wiring::Wiring;
use corvant_read::edit::{edited, spell_out};
use corvant_testing::{expect_fixed, files, wiring};
use rstest::rstest;

#[rstest]
#[case::misspelt_service(
    "
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.fleet: { type: velmora.Fleet }
  a.board: { needs: { fleet: { service: a.flete } } }
entries:
  e: { needs: { board: { service: a.board }, fleet: { service: \"a.flete\" } } }
",
    "
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.fleet: { type: velmora.Fleet }
  a.board: { needs: { fleet: { service: a.fleet } } }
entries:
  e: { needs: { board: { service: a.board }, fleet: { service: \"a.fleet\" } } }
"
)]
#[case::misspelt_contract_key_setting_and_tag(
    "
//- a.wiring.yaml
corvant: 1
module: a
settings:
  interval: 5
tags:
  rule: { contract: Rule }
services:
  a.clock: { type: velmora.Clock, offers: [TramClock], key: depot }
  a.rule: { type: velmora.Rule, offers: [Rule], tags: [rlue] }
entries:
  e:
    needs:
      one: { contract: TramClok, key: depot }
      two: { contract: TramClock, key: depto }
      three: { setting: intervall }
      four: { tag: rule }
      five: { service: a.rule }
",
    "
//- a.wiring.yaml
corvant: 1
module: a
settings:
  interval: 5
tags:
  rule: { contract: Rule }
services:
  a.clock: { type: velmora.Clock, offers: [TramClock], key: depot }
  a.rule: { type: velmora.Rule, offers: [Rule], tags: [rule] }
entries:
  e:
    needs:
      one: { contract: TramClock, key: depot }
      two: { contract: TramClock, key: depot }
      three: { setting: interval }
      four: { tag: rule }
      five: { service: a.rule }
"
)]
#[case::misspelt_fields_and_shapes(
    "
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.one:
    typ: velmora.One
    offers: Clock
    internal: yes
    key: 5
  a.two: { type: velmora.Two, lifetme: request }
entries:
  e: { needs: { one: { contract: Clock, key: '5' }, two: { service: a.two, via: seter } } }
",
    "
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.one:
    type: velmora.One
    offers: [Clock]
    internal: true
    key: \"5\"
  a.two: { type: velmora.Two, lifetime: request }
entries:
  e: { needs: { one: { contract: Clock, key: '5' }, two: { service: a.two, via: setter } } }
"
)]
#[case::uses_that_lack_one_and_have_one_too_many(
    "
//- a.wiring.yaml
corvant: 1
module: a
uses:
  - c # for later
  - d
entries:
  e: { needs: { b: { service: b.x }, d: { service: d.x } } }
//- b.wiring.json
{\"corvant\": 1, \"module\": \"b\", \"uses\": [], \"services\": {\"b.x\": {\"needs\": {\"d\": {\"service\": \"d.x\"}}}}}
//- c.wiring.toml
corvant = 1
module = \"c\"
[entries.f.needs]
c = { service = \"c.x\" }
[services.\"c.x\"]
type = \"velmora.X\"
//- d.wiring.yaml
corvant: 1
module: d
services:
  d.x: {}
",
    "
//- a.wiring.yaml
corvant: 1
module: a
uses:
  - d
  - b
entries:
  e: { needs: { b: { service: b.x }, d: { service: d.x } } }
//- b.wiring.json
{\"corvant\": 1, \"module\": \"b\", \"uses\": [\"d\"], \"services\": {\"b.x\": {\"needs\": {\"d\": {\"service\": \"d.x\"}}}}}
"
)]
#[case::tags_and_providers_twice_and_a_stale_allowance(
    "
//- corvant.toml
[[allow]]
rule = \"missing-service\"
subject = \"a.gone\"
reason = \"comes with the new depot\"

[[allow]]
rule = \"unused-tg\"
subject = \"spare\"
//- a.wiring.yaml
corvant: 1
module: a
roster: [a.start, a.start]
providers:
  a.start: { registers: [a.x] }
tags:
  spare: {}
services:
  a.x: { type: velmora.X, tags: [rule, rule] }
entries:
  e: { needs: { x: { tag: rule } } }
",
    "
//- corvant.toml
[[allow]]
rule = \"unused-tag\"
subject = \"spare\"
//- a.wiring.yaml
corvant: 1
module: a
roster: [a.start]
providers:
  a.start: { registers: [a.x] }
tags:
  spare: {}
services:
  a.x: { type: velmora.X, tags: [rule] }
entries:
  e: { needs: { x: { tag: rule } } }
"
)]
#[case::more_than_twice(
    "
//- a.wiring.yaml
corvant: 1
module: a
uses: [b, c, b]
roster:
  - a.start
  - a.start
  - a.start # by mistake
providers:
  a.start: { registers: [a.x] }
services:
  a.x: { type: velmora.X, tags: [rule, rule: {}, other, rule] }
entries:
  e: { needs: { x: { tag: rule }, o: { tag: other }, c: { service: c.x } } }
//- b.wiring.yaml
corvant: 1
module: b
services:
  b.x: {}
entries:
  f: { needs: { b: { service: b.x } } }
//- c.wiring.yaml
corvant: 1
module: c
services:
  c.x: {}
",
    "
//- a.wiring.yaml
corvant: 1
module: a
uses: [c]
roster:
  - a.start
providers:
  a.start: { registers: [a.x] }
services:
  a.x: { type: velmora.X, tags: [rule, other] }
entries:
  e: { needs: { x: { tag: rule }, o: { tag: other }, c: { service: c.x } } }
"
)]
fn certain_edits(#[case] before: &str, #[case] after: &str) {
    expect_fixed(before, after, false);
}

#[rstest]
#[case::a_cycle_and_a_default(
    "
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.one: { needs: { x: { service: a.two } } }
  a.two:
    needs:
      y:
        service: a.one
  b.one: { offers: [Clock] }
  b.two: { offers: [Clock] }
entries:
  e: { needs: { a: { service: a.one }, b: { contract: Clock }, c: { service: b.two } } }
",
    "
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.one: { needs: { x: { service: a.two, lazy: true } } }
  a.two:
    needs:
      y:
        service: a.one
  b.one: { offers: [Clock], default: true }
  b.two: { offers: [Clock] }
entries:
  e: { needs: { a: { service: a.one }, b: { contract: Clock }, c: { service: b.two } } }
"
)]
#[case::roster_order(
    "
//- a.wiring.yaml
corvant: 1
module: a
roster:
  - a.first # opens the depot
  - a.second
providers:
  a.first: { registers: [a.x], after: [a.second] }
  a.second: { registers: [a.y] }
services:
  a.x: {}
  a.y: {}
entries:
  e: { needs: { x: { service: a.x }, y: { service: a.y } } }
",
    "
//- a.wiring.yaml
corvant: 1
module: a
roster:
  - a.second # opens the depot
  - a.first
providers:
  a.first: { registers: [a.x], after: [a.second] }
  a.second: { registers: [a.y] }
services:
  a.x: {}
  a.y: {}
entries:
  e: { needs: { x: { service: a.x }, y: { service: a.y } } }
"
)]
#[case::what_nothing_uses(
    "
//- a.wiring.yaml
corvant: 1
module: a
settings:
  spare: 5
  kept: 6
contracts:
  Spare: {}
services:
  a.spare:
    type: velmora.Spare
  a.kept: { needs: { kept: { setting: kept } } }
entries:
  e: { needs: { kept: { service: a.kept } } }
",
    "
//- a.wiring.yaml
corvant: 1
module: a
settings:
  kept: 6
contracts:
services:
  a.kept: { needs: { kept: { setting: kept } } }
entries:
  e: { needs: { kept: { service: a.kept } } }
"
)]
fn likely_edits(#[case] before: &str, #[case] after: &str) {
    expect_fixed(before, after, true);
}

#[test]
fn of_several_faults_in_one_finding_no_fix_is_certain() {
    let text = "//- a.wiring.yaml\ncorvant: 1\nmodule: a\ntags:\n  rule: { attributes: { line: { one-of: [red, blue] }, order: { kind: integer } } }\nservices:\n  a.one: { tags: [rule: { line: bleu, order: x }] }\n  a.two: { tags: [rule: { line: bleu }] }\nentries:\n  e: { needs: { r: { tag: rule } } }\n";
    let (_, report) = audited(&files(text));
    let certainties = |subject: &str| -> Vec<Certainty> {
        let finding = report.findings.iter().find(|finding| finding.subject == subject).unwrap();
        finding.fixes.iter().map(|fix| fix.certainty).collect()
    };
    assert_eq!(certainties("a.one"), [Certainty::Likely, Certainty::Advice]);
    assert_eq!(certainties("a.two"), [Certainty::Certain]);
}

#[rstest]
#[case::rivals("a.fleeet", "a.fleet: {}\n  a.fleets: {}", Certainty::Likely)]
#[case::alone("a.fleeet", "a.fleet: {}", Certainty::Certain)]
#[case::ends_alike("a.fleet", "vehicles.fleet: {}", Certainty::Advice)]
fn a_misspelling_is_certain_where_nothing_else_is_near(
    #[case] written: &str,
    #[case] services: &str,
    #[case] expected: Certainty,
) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  {services}\nentries:\n  e: {{ needs: {{ x: {{ service: {written} }} }} }}\n"
    );
    let (_, report) = audited(&files(&text));
    let finding = report.findings.iter().find(|finding| finding.rule.name == "missing-service").unwrap();
    assert_eq!(finding.fixes[0].certainty, expected, "{:?}", finding.fixes);
}

/// Of every rule's own example: making one fix takes its finding away, and a certain one brings no other.
#[test]
fn the_fixes_of_every_example_fix_it() {
    let mut certain = 0;
    for rule in TEXTS {
        let files = files(rule.faulty);
        let (_, report) = audited(&files);
        for finding in &report.findings {
            for fix in finding.fixes.iter().filter(|fix| !fix.edits.is_empty()) {
                let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
                let after = with_edits(&files, &wiring, &fix.edits);
                let (_, after) = audited(&after);
                let told = format!("{}: {} {}: {}", rule.name, finding.rule.name, finding.subject, fix.title);
                assert!(!after.findings.iter().any(|left| is_same(left, finding)), "it is left: {told}");
                let is_new = |left: &&Finding| !report.findings.iter().any(|known| is_same(known, left));
                if fix.certainty == Certainty::Certain {
                    let new: Vec<_> = after.findings.iter().filter(is_new).map(|new| &new.message).collect();
                    assert!(new.is_empty(), "it brings others: {told}: {new:#?}");
                    certain += 1;
                }
            }
        }
    }
    assert!(certain >= 10, "{certain} fixes of examples are certain");
}

fn is_same(one: &Finding, other: &Finding) -> bool {
    one.rule == other.rule && one.subject == other.subject && one.severity == other.severity
}

fn audited(files: &[(String, String)]) -> (Wiring, Report) {
    let wiring = wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    let mut report = audit(&wiring, &Options::default());
    spell_out(&mut report.findings, &wiring);
    (wiring, report)
}

fn with_edits(files: &[(String, String)], wiring: &Wiring, edits: &[Edit]) -> Vec<(String, String)> {
    let after = |(path, text): &(String, String)| {
        let of_file = edits.iter().filter(|edit| wiring.path(edit.source) == path);
        (path.clone(), edited(text, of_file))
    };
    files.iter().map(after).collect()
}
