//! `tag-attribute`: attributes of a tag that are not as the tag's declaration says.

use corvant_testing::{expect, messages};

const DECLARATION: &str = r#"
//- a.wiring.yaml
corvant: 1
module: a
tags:
  rule:
    attributes:
      priority: { kind: integer, required: true, unique: true }
      line: { kind: text, one-of: [red, blue] }
      weight: { kind: number }
      strict: { kind: boolean }
  free: {}
entries:
  e: { needs: { r: { tag: rule }, f: { tag: free } } }
services:
"#;

#[test]
fn each_fault_is_found_and_one_service_is_one_finding() {
    expect(&format!(
        "{DECLARATION}{}",
        r#"
  a.good: { tags: [{ rule: { priority: 1, line: red, weight: 2, strict: true } }, { free: { any: 1 } }] }
  a.missing: { tags: [rule] }
                      ^^^^ tag-attribute a.missing
  a.kind: { tags: [{ rule: { priority: high } }] }
                                       ^^^^ tag-attribute a.kind
  a.set: { tags: [{ rule: { priority: 2, line: green } }] }
                                               ^^^^^ tag-attribute a.set
  a.taken: { tags: [{ rule: { priority: 1 } }] }
                                        ^ tag-attribute a.taken
  a.unknown: { tags: [{ rule: { priority: 3, lines: red } }] }
                                             ^^^^^ tag-attribute a.unknown
  a.many: { tags: [{ rule: { priority: 4.5, weight: heavy } }] }
                                       ^^^ tag-attribute a.many
"#
        .trim_start_matches('\n')
    ));
}

#[test]
fn help_names_what_was_meant_and_the_collector_fails() {
    let found = messages(&format!("{DECLARATION}  a.x: {{ tags: [{{ rule: {{ prioritiy: 1 }} }}] }}\n"));
    assert!(found[0].text.contains("write `priority`"), "{found:#?}");
    assert_eq!(found[0].entries, 1, "{found:#?}");
}
