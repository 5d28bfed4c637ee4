//! `missing-implementation`: a contract that nothing offers.

use corvant_testing::{expect, messages};

#[test]
fn one_contract_is_one_finding_whoever_needs_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
supplied: { contracts: [HttpClient] }
services:
  a.one: { type: velmora.One, needs: { x: { contract: Missing }, h: { contract: HttpClient } } }
                                                      ^^^^^^^ missing-implementation Missing
  a.two: { type: velmora.Two, needs: { x: { contract: Missing }, y: { contract: Absent, optional: true } } }
entries:
  e: { needs: { one: { service: a.one }, two: { service: a.two } } }
"#,
    );
}

#[test]
fn a_narrower_contract_and_a_generic_offer_answer() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts:
  DepartureSource: { extends: [Source] }
services:
  a.source: { type: velmora.Source, offers: [DepartureSource] }
  a.store: { type: velmora.Store, offers: ["Store<*>"] }
  a.tickets: { type: velmora.Tickets, offers: ["Store<Ticket>"] }
entries:
  e:
    needs:
      source: { contract: Source }
      lines: { contract: "Store<Line>" }
      tickets: { contract: "Store<Ticket>" }
      shelf: { contract: "Shelf<Ticket>" }
                         ^^^^^^^^^^^^^^^ missing-implementation Shelf<Ticket>
"#,
    );
}

#[test]
fn templates_and_services_of_other_stages_are_named() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.common: { template: true, offers: [Clock] }\n  a.drill: { stages: [drill], offers: [Alarm] }\nentries:\n  e: { needs: { c: { contract: Clock }, a: { contract: Alarm } } }\n",
    );
    let text: String = found.iter().map(|found| found.text.as_str()).collect();
    assert!(text.contains("a.common (a.wiring.yaml:4) offers it, but is a template"), "{text}");
    assert!(text.contains("a.drill (a.wiring.yaml:5) offers it, but is limited to stage drill"), "{text}");
}
