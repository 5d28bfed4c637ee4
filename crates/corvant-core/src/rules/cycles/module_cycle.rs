//! `module-cycle`: modules that need each other through their services and entries.

use crate::audit::{Context, Crossing, Sink};
use crate::finding::{Finding, Severity};
use crate::graph::plain::{Plain, rings};
use crate::rules::{Family, Rule, Scope};
use foldhash::HashMap;

/// The rule.
pub static RULE: Rule = Rule {
    name: "module-cycle",
    family: Family::Cycles,
    severity: Severity::Warning,
    summary: "modules that need each other through their services and entries",
    why: "Modules in a ring cannot be built, tested, shipped or replaced one without the others.",
    limits: "Needs on a contract count towards the module that declares the contract, not towards the one that \
             offers it: a contract of one's own is how such a ring is opened. Contracts that nobody declares, \
             tags and what carries them do not count.",
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
    mended: r#"
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
    scope: Scope::Workspace,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let wiring = context.wiring;
    let name = |module: u32| context.text(wiring.modules[module as usize].module.name);
    // Numbered by name, so that a ring begins at the smallest.
    let mut by_name: Vec<u32> = (0..wiring.modules.len() as u32).collect();
    by_name.sort_unstable_by_key(|&module| name(module));
    let mut rank = vec![0; by_name.len()];
    for (position, &module) in by_name.iter().enumerate() {
        rank[module as usize] = position as u32;
    }
    let mut first: HashMap<(u32, u32), (Crossing, usize)> = HashMap::default();
    for &crossing in context.crossings() {
        let edge = (rank[crossing.from.index()], rank[crossing.to.index()]);
        first.entry(edge).or_insert((crossing, 0)).1 += 1;
    }
    let mut graph: Plain = vec![Vec::new(); by_name.len()];
    for &(from, to) in first.keys() {
        graph[from as usize].push(to);
    }
    for to in &mut graph {
        to.sort_unstable();
    }
    for (ring, size) in rings(&graph) {
        let names: Vec<&str> = ring.iter().map(|&position| name(by_name[position as usize])).collect();
        let subject = names.join(" > ");
        let mut message =
            format!("{} modules need one another in a ring: {subject} > {}", names.len(), names[0]);
        if size > ring.len() {
            message = format!("{message}; it is the shortest ring in a knot of {size} modules");
        }
        let mut finding = Finding::new(&RULE, subject, message);
        for (position, &from) in ring.iter().enumerate() {
            let to = ring[(position + 1) % ring.len()];
            let (crossing, count) = first[&(from, to)];
            let (from, to) = (names[position], name(by_name[to as usize]));
            let more = if count > 1 { format!(", as {} more times", count - 1) } else { String::new() };
            let role = format!("{from} needs {} of {to} here{more}", context.text(crossing.target));
            finding = finding.at(crossing.source, crossing.span, role);
        }
        let help = "let one of the modules declare a contract for what it needs, and the other offer it";
        sink.report(finding.help(help));
    }
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn rings_run_through_ids_settings_and_declared_contracts() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
settings: { a.limit: 1 }
services:
  a.one: { needs: { x: { contract: FromB } } }
                                   ^^^^^ module-cycle a > b
  a.two: { offers: [Own] }
contracts: { Own: {} }
entries:
  e: { needs: { x: { service: a.one }, t: { tag: plug-in }, o: { contract: Own } } }
//- b.wiring.yaml
corvant: 1
module: b
contracts: { FromB: {} }
services:
  b.one: { offers: [FromB], needs: { limit: { setting: a.limit } } }
//- c.wiring.yaml
corvant: 1
module: c
services:
  c.one: { tags: [plug-in], needs: { x: { contract: Own } } }
"#,
        );
    }
}
