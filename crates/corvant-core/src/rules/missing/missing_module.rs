//! `missing-module`: a module that is used and that no manifest belongs to, or a distribution or module of a platform
//! that is required and not installed.

use crate::facts::{InstalledKind, Requirement};
use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::meanings;
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, Installations, Sink, WorkspaceView};
use crate::wiring::ModuleIndex;
use crate::word::some_of;
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-module",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a module that is used or required and that is not there",
        why: "Everything that was meant to come from it is missing, or comes from somewhere else than was meant.",
        limits: "A module whose name stands in a file that could not be read is taken to be there. What a \
             distribution requires is looked for in its own installation and in those around it; requirements with \
             a condition are not checked, nor is an installation of which something could not be read. Modules of \
             the platform itself are taken to be there.",
        fixes: Certainty::Likely,
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
    not_installed(view, sink);
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

/// Distributions and modules of a platform that are required and not installed: one finding for each, with all that
/// require it.
fn not_installed(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    if wiring.facts.requirements.is_empty() {
        return;
    }
    let installations = Installations::new(wiring);
    let missed = |requirement: &&Requirement| {
        requirement.is_installed
            && !installations.meets(requirement)
            && !installations.hides_something(requirement.place)
            && view.doubts().mentions(requirement.name.name).is_none()
    };
    let mut missing: Vec<Vec<&Requirement>> = Vec::new();
    let mut numbers: HashMap<_, usize> = HashMap::default();
    for requirement in wiring.facts.requirements.iter().filter(missed) {
        let number = *numbers.entry((requirement.place, requirement.name.name)).or_insert_with(|| {
            missing.push(Vec::new());
            missing.len() - 1
        });
        missing[number].push(requirement);
    }
    let disabled: HashMap<Name, (SourceIndex, Span)> =
        wiring.facts.disabled.iter().map(|&(source, module)| (module.name, (source, module.span))).collect();
    for requirements in missing {
        sink.report(absent(view, &requirements, &disabled));
    }
}

/// The finding about something that is not installed.
fn absent(
    view: &WorkspaceView<'_>,
    requirements: &[&Requirement],
    disabled: &HashMap<Name, (SourceIndex, Span)>,
) -> Finding {
    let wiring = view.wiring();
    let Requirement { kind, name, place, .. } = *requirements[0];
    let (text, place) = (view.text(name.name), view.text(place));
    let holder = |requirement: &&Requirement| wiring.module_name(requirement.source).unwrap_or("?");
    let mut holders: Vec<&str> = requirements.iter().map(holder).collect();
    holders.sort_unstable();
    holders.dedup();
    let requires = if holders.len() == 1 { "requires" } else { "require" };
    let by = some_of(&holders, 3);
    let disabled = disabled.get(&name.name);
    let (subject, message, advice) = match kind {
        _ if disabled.is_some() => {
            let message = format!("{by} {requires} {text}, and the workspace disables it");
            (text.to_owned(), message, format!("enable {text}, or disable what requires it too"))
        }
        InstalledKind::Distribution => {
            let message = format!("{by} {requires} {text}, which is not installed in {place}");
            (format!("{text} in {place}"), message, format!("install {text}, or take out what requires it"))
        }
        InstalledKind::Module => {
            let message = format!(
                "{by} {requires} the module {text}, which is in no jar that was read: the platform refuses to start"
            );
            (
                text.to_owned(),
                message,
                format!("add the jar with the module {text}, or take out what requires it"),
            )
        }
    };
    let mut finding = Finding::new(&RULE.text, subject, message);
    for requirement in requirements {
        finding = finding.at(requirement.source, requirement.name.span, "required here");
    }
    if let Some(&(workspace, span)) = disabled {
        finding = finding.at(workspace, span, "disabled here");
    }
    finding.advice(advice)
}
