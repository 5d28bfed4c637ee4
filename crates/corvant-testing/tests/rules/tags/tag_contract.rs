//! `tag-contract`: a service that carries a tag and does not offer what the tag asks for.

use corvant_testing::expect;

#[test]
fn narrower_contracts_and_wrapped_services_answer() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts: { Narrow: { extends: [Task] } }
tags: { task: { contract: Task }, other: { contract: Task }, free: {} }
services:
  a.exact: { offers: [Task], tags: [task] }
  a.narrow: { offers: [Narrow], tags: [task] }
  a.free: { tags: [free] }
  a.none: { tags: [task, free, other] }
                   ^^^^ tag-contract a.none
entries:
  e: { needs: { t: { tag: task }, o: { tag: other }, f: { tag: free } } }
"#,
    );
}
