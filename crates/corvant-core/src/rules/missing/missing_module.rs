//! `missing-module`: a module that is used and that no manifest belongs to.

use crate::finding::{Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::meanings;
use crate::rules::Rule;
use crate::source::SourceIndex;
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::ModuleIndex;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-module",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a module that is used and that no manifest belongs to",
        why: "Everything that was meant to come from it is missing, or comes from somewhere else than was meant.",
        limits: "A module whose name stands in a file that could not be read is taken to be there.",
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
uses: [vehicle]
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
about: Where every tram is
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
about: When which tram leaves
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
about: Where every tram is
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    let modules: HashSet<Name> = wiring.modules.iter().map(|module| module.module.name).collect();
    let mut seen = HashSet::default();
    let missing: Vec<_> = wiring
        .facts
        .uses
        .iter()
        .filter(|(_, used)| !modules.contains(&used.name) && view.doubts().mentions(used.name).is_none())
        .filter(|&&(source, used)| seen.insert((wiring.module_of(source), used.name)))
        .collect();
    let known: Vec<&str> = wiring.modules.iter().map(|module| view.text(module.module.name)).collect();
    let wanted: Vec<&str> = missing.iter().map(|(_, used)| view.text(used.name)).collect();
    disabled_and_absent(view, &modules, sink);
    let (mut needed, mut said) = (None, None);
    for (&&(source, used), meant) in missing.iter().zip(meanings(&wanted, &known)) {
        let (from, to) = (wiring.module_name(source).unwrap_or("?"), view.text(used.name));
        let disabled = wiring.facts.disabled.iter().find(|(_, module)| module.name == used.name);
        let what = if disabled.is_some() { "the workspace disables it" } else { "no manifest belongs to it" };
        let message = format!("{from} uses the module {to}, and {what}");
        let mut finding =
            Finding::new(&RULE.text, format!("{from} > {to}"), message).at(source, used.span, "used here");
        if let Some(&(workspace, disabled)) = disabled {
            let finding = finding.at(workspace, disabled.span, "disabled here");
            sink.report(finding.advice(format!("enable {to}, or disable {from} too, or take the use out")));
            continue;
        }
        if let Some(meant) = meant {
            let said = said.get_or_insert_with(|| view.said_uses());
            let from = wiring.module_of(source);
            let places = said.of(from, used.name).iter().copied();
            let (name, module) = (known[meant.known], wiring.modules[meant.known].module.name);
            // What needs nothing of that module may have had another in mind; and so may what uses it already.
            let mut needs = |from| {
                needed
                    .get_or_insert_with(|| view.mentioned_modules())
                    .has(from, ModuleIndex(meant.known as u32))
            };
            let likeness = match from {
                Some(own) if !said.of(from, module).is_empty() || !needs(own) => {
                    meant.likeness.at_most_likely()
                }
                _ => meant.likeness,
            };
            finding = finding.fix(Fix::rename(format!("write {name}"), places, to, name, likeness));
        }
        sink.report(finding.advice("take it out, or bring its manifests into the workspace"));
    }
}

/// Modules that the workspace disables and that do not exist: the one that is meant stays enabled.
fn disabled_and_absent(view: &WorkspaceView<'_>, modules: &HashSet<Name>, sink: &mut Sink) {
    let wiring = view.wiring();
    let dormant: HashSet<Name> = (0..wiring.sources.len() as u32)
        .filter_map(|source| wiring.dormant_module(SourceIndex(source)))
        .collect();
    let known: Vec<&str> = wiring.modules.iter().map(|module| view.text(module.module.name)).collect();
    for &(source, module) in &wiring.facts.disabled {
        let hidden = view.doubts().is_opaque() || view.doubts().mentions(module.name).is_some();
        if modules.contains(&module.name) || dormant.contains(&module.name) || hidden {
            continue;
        }
        let name = view.text(module.name);
        let message = format!("the workspace disables the module {name}, and no manifest belongs to it");
        let mut finding = Finding::new(&RULE.text, format!("workspace > {name}"), message).at(
            source,
            module.span,
            "disabled here",
        );
        let place = (source, module.span);
        if let Some(meant) = meanings(&[name], &known)[0] {
            let known = known[meant.known];
            finding =
                finding.fix(Fix::rename(format!("write {known}"), [place], name, known, meant.likeness));
        }
        let change = Change::take_out(source, module.span);
        sink.report(finding.fix(Fix::likely("take it out of `disabled`", [change])));
    }
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn a_module_is_there_if_any_file_speaks_for_it() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: [b, c, c]
          ^ missing-module a > c
//- b.wiring.yaml
corvant: 1
module: b
uses: [gone]
       ^^^^ missing-module b > gone
services: { b.x: {} }
//- b2.wiring.yaml
corvant: 1
module: b
uses: [gone]
//- c2.wiring.yaml
corvant: 1
module: a
entries:
  e: { needs: { x: { service: b.x } } }
"#,
        );
    }
}
