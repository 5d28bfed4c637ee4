//! `undeclared-use`: a need into a module that `uses` does not list.

use crate::audit::{Context, Sink};
use crate::finding::{Finding, Severity};
use crate::name::Name;
use crate::rules::{Family, Rule, Scope};
use crate::source::Place;
use crate::wiring::ModuleIndex;
use foldhash::{HashMap, HashSet};

/// The rule.
pub static RULE: Rule = Rule {
    name: "undeclared-use",
    family: Family::Boundaries,
    severity: Severity::Error,
    summary: "a need into a module that `uses` does not list",
    why: "What a module may depend on was written down to keep modules apart; a need past it ties them \
          together unseen.",
    limits: "Modules that do not say what they use are not checked. Needs on contracts count towards the module \
             that declares the contract, not towards the one that offers it; contracts that nobody declares, \
             and tags, do not count.",
    faulty: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
uses: []
services:
  depot.yard: { type: velmora.depot.Yard, needs: { fleet: { service: vehicles.fleet } } }
entries:
  open-gate: { needs: { yard: { service: depot.yard } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services: { vehicles.fleet: { type: velmora.vehicles.Fleet } }
"#,
    mended: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
uses: [vehicles]
services:
  depot.yard: { type: velmora.depot.Yard, needs: { fleet: { service: vehicles.fleet } } }
entries:
  open-gate: { needs: { yard: { service: depot.yard } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services: { vehicles.fleet: { type: velmora.vehicles.Fleet } }
"#,
    scope: Scope::WholeStage,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let wiring = context.wiring;
    let name = |module: ModuleIndex| wiring.modules[module.index()].module.name;
    let undeclared = context.crossings().undeclared(|crossing| context.is_in_effect(crossing));
    if undeclared.is_empty() {
        return;
    }
    let hidden = hidden_uses(context);
    let mut number: HashMap<(ModuleIndex, ModuleIndex), usize> = HashMap::default();
    let mut findings: Vec<Finding> = Vec::new();
    for crossing in undeclared {
        let (from, to) = (crossing.from, crossing.to);
        let is_hidden = || hidden.contains(&(folder(wiring.path(crossing.source)), name(to)));
        if is_hidden() {
            continue;
        }
        let (from_text, to_text) = (context.text(name(from)), context.text(name(to)));
        let at = *number.entry((from, to)).or_insert_with(|| {
            let message = format!("{from_text} needs {to_text} and does not say that it uses it");
            let finding = Finding::new(&RULE, format!("{from_text} > {to_text}"), message);
            findings.push(
                finding.help(format!("add {to_text} to the `uses` of {from_text}, or do without the need")),
            );
            findings.len() - 1
        });
        let role = format!("{} of {to_text} is needed here", context.text(crossing.target));
        findings[at].places.push(Place::new(crossing.source, crossing.span, role));
    }
    for finding in findings {
        sink.report(finding);
    }
}

/// Names of modules that stand in text that could not be read, with the folder of its file: a module's files
/// lie together, and what it uses may be said there.
fn hidden_uses<'a>(context: &Context<'a>) -> HashSet<(&'a str, Name)> {
    let wiring = context.wiring;
    let modules: HashSet<Name> = wiring.modules.iter().map(|module| module.module.name).collect();
    let troubles = wiring.facts.troubles.iter();
    let hidden = troubles.flat_map(|trouble| {
        let names = trouble.unread.mentions.iter().filter(|name| modules.contains(name));
        names.map(move |&name| (folder(wiring.path(trouble.source)), name))
    });
    hidden.collect()
}

fn folder(path: &str) -> &str {
    path.rsplit_once('/').map_or("", |(folder, _)| folder)
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn services_settings_and_declared_contracts_of_others_are_uses() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: [listed]
services:
  a.one:
    needs:
      listed: { service: listed.x }
      setting: { setting: b.limit }
                          ^^^^^^^ undeclared-use a > b
      again: { service: b.x }
      contract: { contract: Declared }
                            ^^^^^^^^ undeclared-use a > c
      loose: { contract: Loose }
entries:
  e: { needs: { x: { service: a.one } } }
//- a2.wiring.yaml
corvant: 1
module: a
settings: { a.limit: 1 }
entries:
  f: { needs: { x: { service: listed.x }, l: { setting: a.limit } } }
//- b.wiring.yaml
corvant: 1
module: b
settings: { b.limit: 1 }
services: { b.x: {} }
//- c.wiring.yaml
corvant: 1
module: c
contracts: { Declared: {} }
//- d.wiring.yaml
corvant: 1
module: listed
services: { listed.x: { offers: [Declared, Loose] } }
"#,
        );
    }
}
