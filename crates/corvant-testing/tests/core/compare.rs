//! Comparing, as properties over workspaces in which everything meets.

use corvant_core::answers::{Kind, View};
use corvant_core::audit::{Options, audit, audit_resolved};
use corvant_core::compare::{
    Aspect, Comparison, Effect, EffectKind, Outcome, PartChange, State, Turn, Value, compare,
};
use corvant_core::facts::{Facts, Service};
use corvant_core::finding::{Finding, Fix};
use corvant_core::suppose::{self, Supposed};
use corvant_core::wiring::Wiring;
use corvant_read::edit;
use corvant_read::workspace::{self, Beside, Workspace};
use corvant_testing::corpus::Made;
use corvant_testing::syntaxes::{as_json, as_toml, rewritten};
use corvant_testing::tangle::tangle;
use corvant_testing::{wiring, wiring_of};
use rstest::rstest;
use std::collections::{BTreeMap, HashSet};
use tempfile::TempDir;

fn compared(old: &Wiring, new: &Wiring) -> Comparison {
    let ((before, was), (after, is)) =
        (audit_resolved(old, &Options::default()), audit_resolved(new, &Options::default()));
    let views = [View::of(old, was), View::of(new, is)];
    let comparison =
        compare(State { view: &views[0], report: &before }, State { view: &views[1], report: &after });
    // What an audit worked out on its way is what would be worked out anew.
    assert_eq!(comparison, compared_in(None, old, new));
    comparison
}

/// The same in a stage, as far as a wiring has it.
fn compared_in(stage: Option<&str>, old: &Wiring, new: &Wiring) -> Comparison {
    let (before, after) = (audit(old, &Options::default()), audit(new, &Options::default()));
    let [old, new] = [old, new].map(|wiring| {
        let stage = stage.and_then(|stage| wiring.names.find(stage));
        View::new(wiring, stage.filter(|stage| wiring.stages.contains(stage)))
    });
    compare(State { view: &old, report: &before }, State { view: &new, report: &after })
}

fn tangled(seed: u64) -> Wiring {
    let files = tangle(seed);
    wiring(files.iter().map(|(path, text)| (path.as_str(), text.as_str())))
}

/// Two tangles that have most of their files in common, and two that have none.
fn pairs() -> impl Iterator<Item = (Wiring, Wiring)> {
    (0..150).map(|seed| {
        let (one, other) = (tangle(seed), tangle(seed + 1_000));
        let mixed =
            one.iter().skip(1).chain(other.first()).map(|(path, text)| (path.as_str(), text.as_str()));
        let mixed: BTreeMap<&str, &str> = mixed.collect();
        if seed % 3 == 0 { (tangled(seed), tangled(seed + 1_000)) } else { (tangled(seed), wiring(mixed)) }
    })
}

#[test]
fn nothing_is_another_than_itself() {
    for seed in 0..200 {
        let comparison = compared(&tangled(seed), &tangled(seed));
        assert!(comparison.is_empty(), "seed {seed}: {comparison:#?}");
    }
}

type Side = (Option<Value>, Option<Value>);

/// What was and is, whichever side is which.
fn told(comparison: &Comparison, mirrored: bool) -> Vec<String> {
    let turned = |(one, other): Side| if mirrored { (other, one) } else { (one, other) };
    let parts = |parts: &[PartChange]| -> Vec<(Aspect, String, Side)> {
        let part = |part: &PartChange| {
            (part.aspect, part.item.clone(), turned((part.before.clone(), part.after.clone())))
        };
        parts.iter().map(part).collect()
    };
    let mut told: Vec<String> = comparison
        .definitions
        .iter()
        .map(|change| {
            let (turn, name) = match (&change.turn, mirrored) {
                (Turn::New, false) | (Turn::Gone, true) => ("new", change.name.clone()),
                (Turn::Gone, false) | (Turn::New, true) => ("gone", change.name.clone()),
                (Turn::Renamed { from }, false) => ("renamed", format!("{from} {}", change.name)),
                (Turn::Renamed { from }, true) => ("renamed", format!("{} {from}", change.name)),
                (Turn::Changed, _) => ("changed", change.name.clone()),
            };
            format!("{:?} {turn} {name} {:?}", change.kind, parts(&change.parts))
        })
        .collect();
    told.extend(comparison.effects.iter().map(|effect| {
        let Effect { kind, subject, key, everywhere, stages, none_chosen, before, after, .. } = effect;
        let (one, other) = if mirrored { (after, before) } else { (before, after) };
        format!("{kind:?} {subject} {key:?} {everywhere} {stages:?} {none_chosen} {one:?} {other:?}")
    }));
    told.sort();
    told
}

#[test]
fn the_way_back_is_the_mirror_of_the_way_there() {
    for (old, new) in pairs() {
        let (there, back) = (compared(&old, &new), compared(&new, &old));
        assert_eq!(told(&there, false), told(&back, true));
        assert_eq!(there.findings.new.len(), back.findings.gone.len());
        assert_eq!(there.findings.gone.len(), back.findings.new.len());
        assert_eq!(there.findings.same, back.findings.same);
    }
}

type Definitions = BTreeMap<(Kind, String), Vec<BTreeMap<(Aspect, String), Value>>>;

/// All that a wiring says: what is new in it against nothing.
fn all_of(wiring: &Wiring) -> Definitions {
    let mut all = Definitions::new();
    for change in compared(&self::wiring(std::iter::empty()), wiring).definitions {
        assert_eq!(change.turn, Turn::New);
        let parts = change.parts.into_iter().map(|part| ((part.aspect, part.item), part.after.unwrap()));
        all.entry((change.kind, change.name)).or_default().push(parts.collect());
    }
    for definitions in all.values_mut() {
        definitions.sort();
    }
    all
}

/// Takes out the definition that says what the parts say that it said.
fn take(
    all: &mut Definitions,
    kind: Kind,
    name: &str,
    parts: &[PartChange],
) -> BTreeMap<(Aspect, String), Value> {
    let key = (kind, name.to_owned());
    let definitions = all.get_mut(&key).expect("it is there");
    let fits = |definition: &BTreeMap<(Aspect, String), Value>| {
        parts.iter().all(|part| definition.get(&(part.aspect, part.item.clone())) == part.before.as_ref())
    };
    let found = definitions.iter().position(fits).expect("it says what it is said to have said");
    let taken = definitions.remove(found);
    if definitions.is_empty() {
        all.remove(&key);
    }
    taken
}

#[test]
fn what_is_told_makes_the_one_out_of_the_other() {
    for (old, new) in pairs() {
        let mut patched = all_of(&old);
        let changes = compared(&old, &new).definitions;
        // What stays is found by what it said: all is taken out before anything is put in.
        let mut put_in = Vec::new();
        for change in &changes {
            let was = match &change.turn {
                Turn::New => BTreeMap::new(),
                Turn::Renamed { from } => take(&mut patched, change.kind, from, &change.parts),
                Turn::Gone | Turn::Changed => take(&mut patched, change.kind, &change.name, &change.parts),
            };
            let mut is = was;
            for part in &change.parts {
                let key = (part.aspect, part.item.clone());
                match &part.after {
                    Some(value) => is.insert(key, value.clone()),
                    None => is.remove(&key),
                };
            }
            if change.turn != Turn::Gone {
                put_in.push(((change.kind, change.name.clone()), is));
            }
        }
        for (key, definition) in put_in {
            patched.entry(key).or_default().push(definition);
        }
        for definitions in patched.values_mut() {
            definitions.sort();
        }
        assert_eq!(patched, all_of(&new));
    }
}

const BEFORE: &str = "
//- a.wiring.yaml
corvant: 1
module: depot
settings:
  depot.seconds: 4
tags:
  task: {}
services:
  depot.gate: { type: velmora.Gate, lifetime: process, needs: { yard: { service: depot.yard }, s: { setting: depot.seconds } } }
  depot.yard: { type: velmora.Yard, offers: [Yard], tags: [task] }
entries:
  open: { needs: { gate: { service: depot.gate }, yard: { contract: Yard } } }
";

fn changed(edits: &[(&str, &str)]) -> Comparison {
    let mut after = BEFORE.to_owned();
    for (from, to) in edits {
        assert!(after.contains(from), "{from}");
        after = after.replace(from, to);
    }
    compared(&wiring_of(BEFORE), &wiring_of(&after))
}

#[test]
fn a_service_of_another_name_that_says_the_same_is_renamed() {
    let comparison = changed(&[("depot.yard", "depot.tracks")]);
    let turns: Vec<(&str, &Turn)> =
        comparison.definitions.iter().map(|change| (change.name.as_str(), &change.turn)).collect();
    assert_eq!(
        turns,
        [("depot.gate", &Turn::Changed), ("depot.tracks", &Turn::Renamed { from: "depot.yard".to_owned() })]
    );
}

#[rstest]
#[case::type_of(&[("velmora.Gate", "velmora.Doors")], Aspect::Type, "")]
#[case::lifetime(&[("lifetime: process", "lifetime: request")], Aspect::Lifetime, "")]
#[case::need(&[("yard: { service: depot.yard }", "yard: { service: depot.yard, lazy: true }")], Aspect::Need, "yard")]
#[case::slot(&[("yard: { service: depot.yard }", "other: { service: depot.yard }")], Aspect::Need, "other")]
#[case::offer(&[("offers: [Yard]", "offers: [Yard, Tracks]")], Aspect::Offers, "Tracks")]
#[case::tag(&[(", tags: [task]", "")], Aspect::Tag, "task")]
#[case::value(&[("depot.seconds: 4", "depot.seconds: 5")], Aspect::Value, "")]
#[case::module(&[("module: depot", "module: yards")], Aspect::Module, "")]
fn each_part_is_told(#[case] edits: &[(&str, &str)], #[case] aspect: Aspect, #[case] item: &str) {
    let comparison = changed(edits);
    let parts = comparison.definitions.iter().filter(|change| change.turn == Turn::Changed);
    let mut parts = parts.flat_map(|change| &change.parts);
    assert!(parts.any(|part| part.aspect == aspect && part.item == item), "{comparison:#?}");
}

#[test]
fn what_follows_is_told_with_whom_it_concerns() {
    let second = "  depot.sidings: { offers: [Yard], default: true }\nentries:";
    let comparison = changed(&[("entries:", second), ("depot.seconds: 4", "depot.seconds: 5")]);
    let effect = |kind: EffectKind| comparison.effects.iter().find(|effect| effect.kind == kind).unwrap();
    let winner = effect(EffectKind::Winner);
    assert_eq!(winner.before, Outcome::Name("depot.yard".to_owned()));
    assert_eq!(winner.after, Outcome::Name("depot.sidings".to_owned()));
    assert!(winner.everywhere && winner.whom[0].name == "open", "{winner:#?}");
    let setting = effect(EffectKind::Setting);
    assert_eq!(setting.after, Outcome::Text("5".to_owned()));
    assert_eq!(setting.whom[0].name, "depot.gate");
    let uses = effect(EffectKind::Uses);
    assert_eq!(
        (uses.subject.as_str(), &uses.after),
        ("open", &Outcome::Names(vec!["depot.sidings".to_owned()]))
    );
    assert_eq!(uses.before, Outcome::Names(Vec::new()), "the yard is needed by the gate all the same");
}

#[test]
fn an_effect_says_in_which_stages_it_is_so() {
    let drill = "  depot.drill: { offers: [Yard], default: true, stages: [drill] }\nentries:";
    let comparison = changed(&[("entries:", drill)]);
    let winner = comparison.effects.iter().find(|effect| effect.kind == EffectKind::Winner).unwrap();
    assert_eq!((winner.none_chosen, winner.everywhere), (false, false));
    assert_eq!(winner.stages, ["drill"]);
}

#[rstest]
#[case::lifetime(
    "depot.night: { lifetime: process, stages: [drill] }",
    "depot.night: { lifetime: request, stages: [drill] }",
    EffectKind::Lifetime,
    "depot.night"
)]
#[case::lifetime_of_one_of_two(
    "depot.night: { lifetime: process, stages: [quiet] }\n//- c.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  depot.night: { lifetime: process, stages: [drill] }",
    "depot.night: { lifetime: process, stages: [quiet] }\n//- c.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  depot.night: { lifetime: request, stages: [drill] }",
    EffectKind::Lifetime,
    "depot.night"
)]
#[case::uses(
    "depot.drill: { offers: [Yard], default: true, stages: [drill] }\n  depot.night: {}",
    "depot.drill: { offers: [Yard], default: true, stages: [drill], needs: { n: { service: depot.night } } }\n  depot.night: {}",
    EffectKind::Uses,
    "open"
)]
fn what_changes_in_one_stage_alone_is_told_of_that(
    #[case] was: &str,
    #[case] is: &str,
    #[case] kind: EffectKind,
    #[case] subject: &str,
) {
    let more = |more: &str| format!("//- b.wiring.yaml\ncorvant: 1\nmodule: depot\nservices:\n  {more}\n");
    let state = |text: &str| wiring_of(&format!("{BEFORE}{}", more(text)));
    let comparison = compared(&state(was), &state(is));
    let effects = comparison.effects.iter().filter(|effect| effect.kind == kind);
    let told: Vec<_> = effects
        .map(|effect| (effect.subject.as_str(), effect.everywhere, effect.none_chosen, effect.stages.clone()))
        .collect();
    assert_eq!(told, [(subject, false, false, vec!["drill".to_owned()])]);
}

/// What is told of all stages together, out of what each changes, is what is told of each alone, worked out afresh.
#[test]
fn effects_of_all_stages_are_those_of_each() {
    let mut compared_stages = 0;
    for (old, new) in pairs() {
        let all = compared(&old, &new).effects;
        let names = |wiring: &Wiring| -> Vec<String> {
            wiring.stages.iter().map(|&stage| wiring.text(stage).to_owned()).collect()
        };
        for stage in names(&old).into_iter().chain(names(&new)) {
            let told = |effect: &Effect| {
                format!("{:?}", (effect.kind, &effect.subject, &effect.key, &effect.before, &effect.after))
            };
            let here = all.iter().filter(|effect| effect.everywhere || effect.stages.contains(&stage));
            let alone = compared_in(Some(&stage), &old, &new).effects;
            assert_eq!(here.map(told).collect::<Vec<_>>(), alone.iter().map(told).collect::<Vec<_>>());
            compared_stages += usize::from(!alone.is_empty());
        }
    }
    assert!(compared_stages > 100, "{compared_stages}");
}

/// However many entries come to use something else, each is told with what it is.
#[test]
fn many_entries_are_told_each_with_its_own() {
    let count = 3_000;
    let state = |of: &str| {
        let services: String =
            (0..count).map(|n| format!("  s{n}: {{ needs: {{ n: {{ service: {of}{n} }} }} }}\n")).collect();
        let ends: String = (0..count).map(|n| format!("  one{n}: {{}}\n  other{n}: {{}}\n")).collect();
        let entries: String =
            (0..count).map(|n| format!("  e{n}: {{ needs: {{ n: {{ service: s{n} }} }} }}\n")).collect();
        let text = format!("corvant: 1\nmodule: depot\nservices:\n{services}{ends}entries:\n{entries}");
        wiring([("a.wiring.yaml", text.as_str())])
    };
    let comparison = compared(&state("one"), &state("other"));
    assert_eq!(comparison.effects.len(), count);
    for effect in comparison.effects {
        let number = effect.subject.trim_start_matches('e');
        let names = |of: &str| Outcome::Names(vec![format!("{of}{number}")]);
        assert_eq!((effect.before, effect.after), (names("one"), names("other")));
    }
}

#[test]
fn findings_are_new_gone_worse_or_the_same() {
    let faulty = changed(&[("service: depot.gate", "service: depot.gat")]);
    assert!(!faulty.findings.new.is_empty() && faulty.findings.gone.is_empty());
    let same = changed(&[("velmora.Gate", "velmora.Doors")]);
    assert!(same.findings.is_empty(), "{:#?}", same.findings);
}

/// All that an audit says of what was read.
fn said(workspace: Workspace) -> String {
    let (wiring, blind_spots) = workspace.link();
    let report = audit(&wiring, &Options::default());
    let finding = |finding: &Finding| {
        let places = finding.places.iter().map(|place| (wiring.path(place.source), place.span, &place.role));
        format!(
            "{} {} {} {:?}\n",
            finding.rule.name,
            finding.subject,
            finding.message,
            places.collect::<Vec<_>>()
        )
    };
    let findings: String = report.findings.iter().map(finding).collect();
    format!("{findings}{:?}{:?}", report.summary, blind_spots.len())
}

#[test]
fn what_is_taken_from_a_twin_is_as_if_it_had_been_read() {
    for seed in 0..120 {
        let folders = [tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap()];
        let (one, other) = (tangle(seed), tangle(seed + 1_000));
        let mixed = one.iter().skip(1).chain(other.first()).cloned().collect();
        for (folder, files) in folders.iter().zip([one, mixed]) {
            for (path, text) in files {
                let path = folder.path().join(path);
                std::fs::create_dir_all(path.parent().unwrap()).unwrap();
                std::fs::write(path, text).unwrap();
            }
        }
        let [old, new] = folders.each_ref().map(TempDir::path);
        let (Ok(twin), Ok(alone)) = (workspace::read(old), workspace::read(new)) else { continue };
        let beside = Beside { twin: Some(&twin), ..Beside::default() };
        let shared = workspace::read_beside(new, beside).unwrap();
        assert_eq!(said(shared), said(alone), "seed {seed}");
    }
}

/// The texts of a workspace, by path.
type Texts = Vec<(String, String)>;

fn read(texts: &Texts) -> Workspace {
    workspace::from_texts(texts.iter().map(|(path, text)| (path.as_str(), text.as_str()))).unwrap()
}

/// Changes that may be supposed of a workspace: of each sort one, of what a number picks.
fn supposable(workspace: &Workspace, pick: usize) -> Vec<Supposed> {
    let facts = || workspace.manifests.iter().map(|manifest| &manifest.facts);
    let services: Vec<_> =
        facts().flat_map(|facts| facts.services.iter().map(move |service| (facts, service))).collect();
    let entries: Vec<_> = facts().flat_map(|facts| &facts.entries).collect();
    let lifetimes: Vec<_> =
        ["process", "request", "use"].iter().filter_map(|word| workspace.names.find(word)).collect();
    let mut changes = Vec::new();
    if !services.is_empty() {
        let (facts, service) = services[pick % services.len()];
        let other = services[(pick / 7) % services.len()].1;
        changes.push(Supposed::Remove(service.id.name));
        changes.extend(
            service
                .needs
                .of(&facts.parts)
                .first()
                .map(|need| Supposed::Lazy { holder: service.id.name, slot: need.slot.name }),
        );
        if !lifetimes.is_empty() {
            changes.push(Supposed::Lifetime {
                service: service.id.name,
                lifetime: lifetimes[pick % lifetimes.len()],
            });
        }
        changes.push(Supposed::Replace { replaced: other.id.name, by: service.id.name });
    }
    if !entries.is_empty() {
        changes.push(Supposed::Remove(entries[pick % entries.len()].id.name));
    }
    changes.extend(decisions(workspace, pick, &services));
    changes
}

/// Choices, modules and rosters that may be supposed.
fn decisions(workspace: &Workspace, pick: usize, services: &[(&Facts, &Service)]) -> Vec<Supposed> {
    let facts = || workspace.manifests.iter().map(|manifest| &manifest.facts);
    let mut changes = Vec::new();
    let choices: Vec<_> = facts().flat_map(|facts| &facts.choices).collect();
    if let (false, false) = (choices.is_empty(), services.is_empty()) {
        let choice = choices[pick % choices.len()];
        let service = services[(pick / 3) % services.len()].1.id.name;
        changes.push(Supposed::Choose {
            contract: choice.contract.name,
            key: choice.key.map(|key| key.name),
            service,
        });
    }
    let modules: Vec<_> = workspace.manifests.iter().filter_map(|manifest| manifest.header.module).collect();
    let disabled: Vec<_> = facts().flat_map(|facts| &facts.disabled).map(|(_, module)| module.name).collect();
    changes.extend(disabled.first().map(|&module| Supposed::Enable(module)));
    let enabled = modules.iter().map(|module| module.name).filter(|module| !disabled.contains(module));
    changes.extend(enabled.map(Supposed::Disable).next());
    let rosters: Vec<Vec<_>> = facts()
        .flat_map(|facts| facts.rosters.iter().map(|roster| roster.providers.of(&facts.parts)))
        .map(|providers| providers.iter().map(|provider| provider.name).collect())
        .collect();
    if let [roster] = rosters.as_slice() {
        let mut turned = roster.clone();
        turned.reverse();
        changes.push(Supposed::Load(turned));
        let fewer: Vec<_> = roster.iter().copied().skip(1 + pick % 2).collect();
        changes.extend((!fewer.is_empty()).then_some(Supposed::Load(fewer)));
        let known = facts().flat_map(|facts| &facts.providers).map(|provider| provider.id.name);
        changes.push(Supposed::Load(roster.iter().copied().chain(known.take(2)).collect()));
    }
    changes
}

/// Makes the edits that are shown for a change; `None`: none are.
fn really_edited(texts: &Texts, change: &Supposed) -> Option<Wiring> {
    let (before, _) = read(texts).link();
    let mut fixes = suppose::fixes(&before, std::slice::from_ref(change));
    let mut all: Vec<&mut Fix> = fixes.iter_mut().flatten().collect();
    edit::spell_out_fixes(&mut all, &before);
    let edits: Vec<_> = fixes.iter().flatten().flat_map(|fix| &fix.edits).collect();
    if edits.is_empty() {
        return None;
    }
    let files = edit::edited_files(&before, edits);
    let after = |(path, text): &(String, String)| {
        (path.clone(), files.get(path).map_or_else(|| text.clone(), |file| file.after.clone()))
    };
    Some(read(&texts.iter().map(after).collect()).link().0)
}

/// A change that is only supposed comes to the same as the edits that are shown for it.
#[rstest]
#[case::made_in_yaml(in_yaml, 4)]
#[case::made_in_json(in_json, 4)]
#[case::made_in_toml(in_toml, 4)]
#[case::tangled(tangle, 8)]
fn what_is_supposed_is_what_the_edits_make(#[case] texts: fn(u64) -> Texts, #[case] of_sorts: usize) {
    let (mut made, mut sorts) = (0, HashSet::new());
    for seed in 0..60 {
        let texts = texts(seed);
        for change in supposable(&read(&texts), seed as usize * 31 + 5) {
            let Some(edited) = really_edited(&texts, &change) else { continue };
            let mut supposed = read(&texts);
            let line = ["--supposed".to_owned()];
            if suppose::apply(&mut supposed.manifests, std::slice::from_ref(&change), &line).is_err() {
                continue;
            }
            let (supposed, _) = supposed.link();
            let comparison = compared(&supposed, &edited);
            let report = audit(&edited, &Options::default());
            let new = comparison.findings.new.iter().map(|new| &report.findings[new.number]);
            let new: Vec<_> =
                new.map(|finding| (finding.rule.name, &finding.subject, &finding.message)).collect();
            let is_same = comparison.definitions.is_empty() && comparison.effects.is_empty();
            assert!(is_same && new.is_empty(), "seed {seed}, {change:?}: {new:#?} {comparison:#?}");
            made += 1;
            sorts.insert(std::mem::discriminant(&change));
        }
    }
    assert_eq!(sorts.len(), of_sorts);
    assert!(made > 60, "{made}");
}

fn in_yaml(seed: u64) -> Texts {
    Made { services: 60, faults: 0, stages: (seed % 3) as usize, seed }
        .files()
        .map(|file| (file.path, file.text))
        .collect()
}

fn in_json(seed: u64) -> Texts {
    rewritten(in_yaml(seed), "json", as_json)
}

fn in_toml(seed: u64) -> Texts {
    rewritten(in_yaml(seed), "toml", as_toml)
}
