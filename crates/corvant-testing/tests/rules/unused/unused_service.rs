//! `unused-service`: a service that nothing comes to use.

use corvant_testing::{expect, messages};

#[test]
fn whatever_reaches_it_is_use() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { tags: [metric] }
tags: { rule: { collected-by: a.collector } }
choices: { Clock: { default: a.chosen } }
services:
  a.lazy: {}
  a.optional: { key: k, offers: [Voice] }
  a.rule: { tags: [rule] }
  a.collector: {}
  a.chosen: { offers: [Clock] }
  a.passed-over: { offers: [Clock] }
  ^^^^^^^^^^^^^ unused-service a.passed-over
  a.metric: { tags: [metric] }
  a.started: {}
  a.expected: {}
  a.registered: {}
  a.never-started: {}
  a.alone: { needs: { x: { service: a.behind } } }
  ^^^^^^^ unused-service a.alone
  a.behind: {}
  ^^^^^^^^ unused-service a.behind
  a.wrapped: {}
  a.wrapper: { wraps: a.wrapped }
providers:
  a.provider: { start: { needs: { x: { service: a.started } } } }
  a.unlisted: { start: { needs: { x: { service: a.never-started } } } }
  ^^^^^^^^^^ unlisted-provider a.unlisted
roster: [a.provider]
expect:
  - { service: a.expected }
entries:
  e:
    needs:
      l: { service: a.lazy, lazy: true }
      o: { contract: Voice, key: k, optional: true }
      c: { contract: Clock }
      t: { service: a.collector }
      r: { service: a.registered }
      w: { service: a.wrapped }
"#,
    );
}

#[test]
fn nothing_is_unused_where_there_is_no_entry() {
    expect("//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.b: {}\n");
}

#[test]
fn used_in_one_stage_is_used() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.drill: { stages: [drill], offers: [Feed] }
  a.live: { stages: [production], offers: [Feed] }
  a.never: { stages: [drill], offers: [Nothing] }
  ^^^^^^^ unused-service a.never
  a.feed: { offers: [Zone], needs: { f: { contract: Feed, optional: true } } }
entries:
  e: { needs: { z: { contract: Zone } } }
"#,
    );
}

#[test]
fn the_message_says_what_stands_between() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.one: { needs: { x: { service: a.two } } }\n  a.two: {}\n  a.first: { offers: [Clock], default: true }\n  a.second: { offers: [Clock] }\nentries:\n  e: { needs: { c: { contract: Clock } } }\n",
    );
    let text: String = found.iter().map(|found| found.text.as_str()).collect();
    assert!(text.contains("nothing comes to use a.two: only a.one needs it, which is unused too"), "{text}");
    assert!(text.contains("nothing comes to use a.second: who needs Clock gets a.first"), "{text}");
}
