//! `unused-contract`: a contract that is declared and that nothing needs.

use crate::facts::Target;
use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::resolve::pattern;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-contract",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "a contract that is declared and that nothing needs",
        why: "Nothing asks for it: what offers it does so for nothing, or what should ask names another.",
        limits: "A contract that a tag asks for or that an expectation speaks of is needed. One that extends a needed \
             contract answers for it, and so does the pattern of a needed contract; what these extend is needed \
             with them.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
contracts: { DepartureSource: {} }
services:
  timetable.board: { type: velmora.timetable.Board, offers: [DepartureSource] }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
contracts: { DepartureSource: {} }
services:
  timetable.board: { type: velmora.timetable.Board, offers: [DepartureSource] }
entries:
  stop-display: { needs: { board: { contract: DepartureSource } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    if view.doubts().is_opaque() {
        return;
    }
    let facts = &view.wiring().facts;
    let used = used(view);
    let mut told: HashSet<Name> = HashSet::default();
    for contract in &facts.contracts {
        let name = contract.contract.name;
        let may_be_used = view.doubts().mentions(name).is_some() || view.may_be_needed(contract.source);
        if used.contains(&name) || !told.insert(name) || may_be_used {
            continue;
        }
        let text = view.text(name);
        let finding = Finding::new(&RULE.text, text, format!("nothing needs the contract {text}"))
            .at(contract.source, contract.contract.span, "declared here")
            .fix(Fix::likely(
                format!("take it out, or let something need {{ contract: {text} }}"),
                [Change::take_out(contract.source, contract.contract.span)],
            ));
        sink.report(finding);
    }
}

/// Contracts that something asks for; those that extend one of them and so answer for it; and those that these
/// extend.
fn used(view: &WorkspaceView<'_>) -> HashSet<Name> {
    let facts = &view.wiring().facts;
    let mut asked: HashSet<Name> = HashSet::default();
    let needs = view.usage().needs(view.wiring());
    asked.extend(needs.filter_map(|need| match need.target {
        Target::Contract(contract) | Target::All(contract) => Some(contract),
        _ => None,
    }));
    asked.extend(facts.tags.iter().filter_map(|tag| tag.contract).map(|contract| contract.name));
    asked.extend(facts.expectations.iter().filter_map(|line| line.contract).map(|contract| contract.name));
    let installed = facts.services.iter().filter(|service| service.of_standard.installed.is_some());
    asked.extend(installed.flat_map(|service| service.offers.of(&facts.parts)).map(|offer| offer.name));
    asked.extend(&view.usage().meant);
    // A pattern answers for all of its form.
    let patterns: Vec<Name> = asked.iter().filter_map(|&contract| pattern(view.wiring(), contract)).collect();
    asked.extend(patterns);
    let resolution = view.resolution();
    resolution.with_bases(resolution.with_narrower(asked)).into_iter().collect()
}
