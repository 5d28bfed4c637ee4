//! `undeclared-use`: a need into a module that `uses` does not list.

use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::source::{Place, SourceIndex, Span};
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::ModuleIndex;
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "undeclared-use",
        family: Family::Boundaries,
        severity: Severity::Error,
        summary: "a need into a module that `uses` does not list",
        why: "What a module may depend on was written down to keep modules apart; a need past it ties them \
          together unseen.",
        limits: "Modules that do not say what they use are not checked. Needs on contracts count towards the module \
             that declares the contract, not towards the one that offers it; contracts that no module declares, \
             and tags, do not count.",
        fixes: Certainty::Certain,
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
        corrected: r#"
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
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    let name = |module: ModuleIndex| wiring.modules[module.index()].module.name;
    let undeclared = view.crossings().undeclared(|crossing| view.is_in_effect(crossing));
    if undeclared.is_empty() {
        return;
    }
    let (hidden, said_in) = (hidden_uses(view), said_in(view));
    let mut number: HashMap<(ModuleIndex, ModuleIndex), usize> = HashMap::default();
    let mut findings: Vec<Finding> = Vec::new();
    for crossing in undeclared {
        let (from, to) = (crossing.from, crossing.to);
        if hidden.contains(&(from, name(to))) {
            continue;
        }
        let (from_text, to_text) = (view.text(name(from)), view.text(name(to)));
        let at = *number.entry((from, to)).or_insert_with(|| {
            let message = format!("{from_text} needs {to_text} and does not say that it uses it");
            let finding = Finding::new(&RULE.text, format!("{from_text} > {to_text}"), message);
            let said_in = said_in.get(&from);
            let change = said_in.map(|&source| Change::append(source, Span::at(0), "uses", to_text));
            let title = format!("add {to_text} to the `uses` of {from_text}");
            findings.push(finding.fix(Fix::certain(title, change)).advice("or do without the need"));
            findings.len() - 1
        });
        let role = format!("{} of {to_text} is needed here", view.text(crossing.target));
        findings[at].places.push(Place::new(crossing.source, crossing.span, role));
    }
    for finding in findings {
        sink.report(finding);
    }
}

/// By module its first file that says which others it uses.
fn said_in(view: &WholeStageView<'_>) -> HashMap<ModuleIndex, SourceIndex> {
    let wiring = view.wiring();
    let mut first = HashMap::default();
    for source in (0..wiring.sources.len() as u32).map(SourceIndex) {
        if let Some(module) = wiring.module_of(source).filter(|_| wiring.headers[source.index()].uses_given) {
            first.entry(module).or_insert(source);
        }
    }
    first
}

/// Modules that may say in text which could not be read that they use one of a name: text of their own files, or
/// of a file of no known module that lies in a folder with one of theirs.
fn hidden_uses(view: &WholeStageView<'_>) -> HashSet<(ModuleIndex, Name)> {
    let wiring = view.wiring();
    let modules: HashSet<Name> = wiring.modules.iter().map(|module| module.module.name).collect();
    let mut hidden = HashSet::default();
    let mut by_folder: HashMap<&str, Vec<Name>> = HashMap::default();
    for trouble in &wiring.facts.troubles {
        let names = trouble.unread.mentions.iter().copied().filter(|name| modules.contains(name));
        match wiring.module_of(trouble.source) {
            Some(module) => hidden.extend(names.map(|name| (module, name))),
            None => by_folder.entry(folder(wiring.path(trouble.source))).or_default().extend(names),
        }
    }
    if !by_folder.is_empty() {
        for source in (0..wiring.sources.len() as u32).map(SourceIndex) {
            let Some(module) = wiring.module_of(source) else { continue };
            let names = by_folder.get(folder(wiring.path(source))).into_iter().flatten();
            hidden.extend(names.map(|&name| (module, name)));
        }
    }
    hidden
}

fn folder(path: &str) -> &str {
    path.rsplit_once('/').map_or("", |(folder, _)| folder)
}
