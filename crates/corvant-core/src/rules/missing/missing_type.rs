//! `missing-type`: a service whose type is in none of the jars and distributions that were read.

use crate::facts::Service;
use crate::finding::{Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::name::Name;
use crate::near::{Meant, meanings};
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::ServiceIndex;
use crate::word::join_words;
use foldhash::{HashMap, HashSet, HashSetExt};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-type",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a service whose type is in none of the jars and distributions that were read",
        why: "What first asks for the service, or for all that offer its contract, gets an error about a type \
          that cannot be loaded.",
        limits: "Types are listed for jars (classes) and for installed distributions and wheels (modules); services \
             defined elsewhere are not checked. Types of the language's own platform are not looked for, nor are \
             entry points that depend on an extra or belong to a distribution that is installed as a link to its \
             sources. Whether an attribute of a module exists is not seen.",
        faulty: r#"
//- site-packages/velmora_voice-1.0.dist-info/entry_points.txt
[velmora.announcers]
cabin = velmora_voice.cabins:Cabin
//- site-packages/velmora_voice-1.0.dist-info/RECORD
velmora_voice/__init__.py,,
velmora_voice/cabin.py,,
"#,
        corrected: r#"
//- site-packages/velmora_voice-1.0.dist-info/entry_points.txt
[velmora.announcers]
cabin = velmora_voice.cabin:Cabin
//- site-packages/velmora_voice-1.0.dist-info/RECORD
velmora_voice/__init__.py,,
velmora_voice/cabin.py,,
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let listed: HashSet<Name> = facts.types.iter().copied().collect();
    let mut missing: Vec<(Name, Vec<ServiceIndex>)> = Vec::new();
    let mut numbers: HashMap<Name, usize> = HashMap::default();
    for (index, service) in view.wiring().services().filter(|(_, service)| service.of_standard.type_checked) {
        let Some(missed) = service.type_name.filter(|known| !listed.contains(&known.name)) else { continue };
        if view.doubts().mentions(missed.name).is_some() {
            continue;
        }
        let number = *numbers.entry(missed.name).or_insert_with(|| {
            missing.push((missed.name, Vec::new()));
            missing.len() - 1
        });
        missing[number].1.push(index);
    }
    if missing.is_empty() {
        return;
    }
    let known: Vec<&str> = distinct(&facts.types).map(|known| view.text(known)).collect();
    let wanted: Vec<&str> = missing.iter().map(|(missed, _)| view.text(*missed)).collect();
    for ((missed, services), meant) in missing.iter().zip(meanings(&wanted, &known)) {
        let meant = meant.map(|meant| (known[meant.known], meant));
        sink.report(finding(view, *missed, services, meant));
    }
}

fn distinct(names: &[Name]) -> impl Iterator<Item = Name> {
    let mut seen = HashSet::with_capacity(names.len());
    names.iter().copied().filter(move |&name| seen.insert(name))
}

fn finding(
    view: &WorkspaceView<'_>,
    missed: Name,
    services: &[ServiceIndex],
    meant: Option<(&str, Meant)>,
) -> Finding {
    let (wiring, text) = (view.wiring(), view.text(missed));
    let offers = |service: &Service| service.offers.of(&wiring.facts.parts).first().map(|offer| offer.name);
    let contracts = services.iter().filter_map(|&service| offers(wiring.service(service)));
    let mut contracts: Vec<&str> = contracts.map(|contract| view.text(contract)).collect();
    contracts.sort_unstable();
    contracts.dedup();
    let asked = match contracts.as_slice() {
        [] => String::new(),
        several => {
            format!("; it fails at the first request for {}", join_words(&several[..several.len().min(3)]))
        }
    };
    let mut finding = Finding::new(&RULE.text, text, format!("{text} is in nothing that was read{asked}"));
    for &index in services {
        let service = wiring.service(index);
        let span = service.type_name.map_or(service.id.span, |known| known.span);
        finding = finding.at(service.source, span, "named here");
    }
    if let Some((name, meant)) = meant {
        let places: Vec<_> = finding.places.iter().map(|place| (place.source, place.span)).collect();
        finding = finding.fix(Fix::rename(format!("write {name}"), places, text, name, meant.likeness));
    }
    let origins =
        services.iter().map(|&service| Origin { node: Graph::service(service), while_building: true });
    finding.advice("take the line out, or bring what has the type into the workspace").failing(origins)
}

#[cfg(test)]
mod tests {
    use corvant_testing::{expect, messages};

    const RECORD: &str = "//- lib/voice-1.0.dist-info/RECORD\nvoice/__init__.py,,\nvoice/fast.cpython-313-x86_64-linux-gnu.so,,\nvoice_tools.py,,\nvoice/deep/inner.py,,\n";

    #[test]
    fn modules_packages_extensions_and_folders_are_there() {
        expect(&format!(
            "//- lib/voice-1.0.dist-info/entry_points.txt\n[g]\na = voice:x\nb = voice.fast:x\nc = voice_tools\nd = voice.deep:x\ne = voice.deep.inner:x.y\nf = voice.depp.inner:x\n    ^^^^^^^^^^^^^^^^ missing-type voice.depp.inner\n{RECORD}"
        ));
    }

    #[test]
    fn one_type_is_one_finding_and_what_was_meant_is_named() {
        let found = messages(&format!(
            "//- lib/voice-1.0.dist-info/entry_points.txt\n[g]\na = voice.depp.inner:x\nb = voice.depp.inner:y\n{RECORD}"
        ));
        assert_eq!(found.len(), 1, "{found:#?}");
        assert!(found[0].text.contains("write voice.deep.inner"), "{found:#?}");
        assert!(found[0].text.contains("fails at the first request for g"), "{found:#?}");
    }

    #[test]
    fn without_a_list_nothing_is_said() {
        expect("//- lib/voice-1.0.dist-info/entry_points.txt\n[g]\na = voice.depp:x\n");
    }
}
