//! `unused-use`: a module that another says it uses and never needs.

use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::ModuleIndex;
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-use",
        family: Family::Unused,
        severity: Severity::Note,
        summary: "a module that another says it uses and never needs",
        why: "The list of what a module may depend on grows beyond what it does, and no longer keeps anything \
          apart.",
        limits: "Any mention counts as need: services, contracts and what offers them, tags, settings, aliases, \
             models, choices. A module whose own files, or whose files' text, could not all be read is not \
             checked.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
uses: [vehicles]
services:
  timetable.board: { type: velmora.timetable.Board }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
about: Where every tram is
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
uses: [vehicles]
services:
  timetable.board: { type: velmora.timetable.Board, needs: { fleet: { service: vehicles.fleet } } }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services:
  vehicles.fleet: { type: velmora.vehicles.Fleet }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    if view.doubts().is_opaque() {
        return;
    }
    let mentioned = view.mentioned_modules();
    let numbers = wiring.modules.iter().enumerate();
    let by_name: HashMap<Name, ModuleIndex> =
        numbers.map(|(number, module)| (module.module.name, ModuleIndex(number as u32))).collect();
    let (mut seen, mut said) = (HashSet::default(), None);
    // What a distribution requires is more than its wiring: only uses that are said to be all are held to it.
    let uses = wiring.facts.uses.iter().filter(|(source, _)| wiring.headers[source.index()].uses_given);
    for &(source, used) in uses {
        let (Some(from), Some(&to)) = (wiring.module_of(source), by_name.get(&used.name)) else { continue };
        let is_needed = from != to && mentioned.has(from, to);
        if is_needed || view.doubts().may_need_anything(from) || !seen.insert((from, to)) {
            continue;
        }
        let said = said.get_or_insert_with(|| view.said_uses()).of(Some(from), used.name);
        let changes = said.iter().map(|&(source, span)| Change::take_out(source, span));
        let (from, to) = (wiring.module_name(source).unwrap_or("?"), view.text(used.name));
        let message = if from == to {
            format!("{from} says that it uses itself")
        } else {
            format!("{from} says that it uses {to}, and needs nothing of it")
        };
        let finding = Finding::new(&RULE.text, format!("{from} > {to}"), message)
            .at(source, used.span, "used here")
            .fix(Fix::certain(format!("take {to} out of `uses`"), changes));
        sink.report(finding);
    }
}
