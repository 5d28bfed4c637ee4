//! `module-cycle`: modules that need each other through their services and entries.

use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::ModuleIndex;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "module-cycle",
        family: Family::Cycles,
        severity: Severity::Warning,
        summary: "modules that need each other through their services and entries",
        why: "Modules in a cycle cannot be built, tested, shipped or replaced one without the others.",
        limits: "Needs on a contract count towards the module that declares the contract, not towards the one that \
             offers it: a contract of one's own is how such a cycle is opened. Contracts that no module declares, \
             tags and what carries them do not count.",
        fixes: Certainty::Advice,
        faulty: r#"
//- signals.wiring.yaml
corvant: 1
module: signals
services:
  signals.balises: { type: velmora.signals.Balises, needs: { fleet: { service: vehicles.fleet } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services:
  vehicles.fleet: { type: velmora.vehicles.Fleet }
  vehicles.locator: { type: velmora.vehicles.Locator, needs: { balises: { service: signals.balises } } }
entries:
  vehicle-position: { needs: { locator: { service: vehicles.locator } } }
"#,
        corrected: r#"
//- signals.wiring.yaml
corvant: 1
module: signals
contracts: { TrainList: {} }
services:
  signals.balises: { type: velmora.signals.Balises, needs: { fleet: { contract: TrainList } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services:
  vehicles.fleet: { type: velmora.vehicles.Fleet, offers: [TrainList] }
  vehicles.locator: { type: velmora.vehicles.Locator, needs: { balises: { service: signals.balises } } }
entries:
  vehicle-position: { needs: { locator: { service: vehicles.locator } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let cycles = view.module_cycles();
    let name = |module: ModuleIndex| view.text(view.wiring().modules[module.index()].module.name);
    let edges = |cycle: &[ModuleIndex]| -> Vec<(ModuleIndex, ModuleIndex)> {
        let next = cycle.iter().cycle().skip(1);
        cycle.iter().copied().zip(next.copied()).collect()
    };
    let wanted: HashSet<(ModuleIndex, ModuleIndex)> =
        cycles.iter().flat_map(|(cycle, _)| edges(cycle)).collect();
    if wanted.is_empty() {
        return;
    }
    let crossings = view.crossings().between(&wanted, |crossing| view.is_in_effect(crossing));
    for (cycle, size) in cycles.iter() {
        let names: Vec<&str> = cycle.iter().map(|&module| name(module)).collect();
        let subject = names.join(" > ");
        let mut message =
            format!("{} modules need one another in a cycle: {subject} > {}", names.len(), names[0]);
        if *size > cycle.len() {
            message = format!("{message}; it is the shortest cycle in a group of {size} modules");
        }
        let mut finding = Finding::new(&RULE.text, subject, message);
        for pair in edges(cycle) {
            let Some([crossing, more @ ..]) = crossings.get(&pair).map(Vec::as_slice) else { continue };
            let (from, to) = (name(pair.0), name(pair.1));
            let more =
                if more.is_empty() { String::new() } else { format!(", as {} more times", more.len()) };
            let role = format!("{from} needs {} of {to} here{more}", view.text(crossing.target));
            finding = finding.at(crossing.source, crossing.span, role);
        }
        let help = "let one of the modules declare a contract for what it needs, and the other offer it";
        sink.report(finding.advice(help));
    }
}
