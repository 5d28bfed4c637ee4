//! `choice-mismatch`: a choice that cannot be honoured.

use crate::facts::{Choice, SuppliedKind};
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::{Likeness, meanings};
use crate::resolve::Lead;
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "choice-mismatch",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "a choice that names a missing service, or one that does not offer the contract",
        why: "What needs the contract gets nothing, or something that cannot do what it asks.",
        limits: "A service that the host platform supplies is taken to offer what it is chosen for.",
        fixes: Certainty::Certain,
        faulty: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
choices: { Announcer: { default: announcements.cabin } }
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer] }
  announcements.cabin: { type: velmora.CabinVoice }
entries:
  announce: { needs: { voice: { contract: Announcer }, platform: { service: announcements.platform } } }
"#,
        corrected: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
choices: { Announcer: { default: announcements.cabin } }
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer] }
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer] }
entries:
  announce: { needs: { voice: { contract: Announcer }, platform: { service: announcements.platform } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let mut candidates: HashMap<Name, HashSet<ServiceIndex>> = HashMap::new();
    let mut settled = HashSet::default();
    for choice in view.wiring().choices(view.resolution().stage) {
        // A stage's own choice takes the place of the one for all.
        if !settled.insert((choice.contract.name, choice.key.map(|key| key.name))) {
            continue;
        }
        let (contract, id) = (choice.contract.name, choice.service.name);
        if view.resolution().is_supplied(SuppliedKind::Service, id) || view.doubts().hides(id).is_some() {
            continue;
        }
        let found = candidates
            .entry(contract)
            .or_insert_with(|| view.resolution().candidates(view.wiring(), contract).into_iter().collect());
        match view.resolution().ids.lead(view.wiring(), id) {
            Lead::Service(service) if found.contains(&service) => {}
            Lead::Nowhere => {}
            Lead::Service(service) => sink.report(not_offering(view, choice, service)),
            Lead::Undefined | Lead::Template(_) => sink.report(undefined(view, choice, found)),
        }
    }
}

fn finding(view: &WholeStageView<'_>, choice: &Choice, what: &str) -> Finding {
    let contract = view.text(choice.contract.name);
    let key = choice.key.map_or_else(String::new, |key| format!("#{}", view.text(key.name)));
    let subject = format!("{contract}{key}");
    let message = format!("the choice for {subject} names {}, which {what}", view.text(choice.service.name));
    let question = (choice.contract.name, choice.key.map(|key| key.name));
    let lack = view.resolution().question(question).and_then(|number| view.lack_of(number));
    let origins = lack.map(|lack| lack.uses.iter().filter_map(|used| used.origin)).into_iter().flatten();
    Finding::new(&RULE.text, subject, message)
        .at(choice.source, choice.service.span, "chosen here")
        .failing(origins.collect::<Vec<Origin>>())
}

fn not_offering(view: &WholeStageView<'_>, choice: &Choice, service: ServiceIndex) -> Finding {
    let contract = view.text(choice.contract.name);
    let definition = view.service(service);
    let own = || format!("add `offers: [{contract}]` to this one");
    let offer = view.say(definition.source, EditSort::Offer, contract, own);
    finding(view, choice, &format!("does not offer {contract}"))
        .at(definition.source, definition.id.span, "defined here")
        .advice(format!("choose a service that offers {contract}, or {offer}"))
        .failing([Origin { node: service.into(), while_building: true }])
}

fn undefined(view: &WholeStageView<'_>, choice: &Choice, candidates: &HashSet<ServiceIndex>) -> Finding {
    let mut known: Vec<ServiceIndex> = candidates.iter().copied().collect();
    known.sort_unstable();
    let ids: Vec<&str> = known.iter().map(|&service| view.id(service)).collect();
    let chosen = view.text(choice.service.name);
    let meant = meanings(&[chosen], &ids)[0];
    let rename = |title: String, to: usize, likeness: Likeness| {
        Fix::rename(title, [(choice.source, choice.service.span)], chosen, ids[to], likeness)
    };
    let finding = finding(view, choice, "is not defined");
    match (meant, known.as_slice()) {
        (Some(meant), _) => {
            let title = format!("write {}", view.whereabouts(known[meant.known]));
            finding.fix(rename(title, meant.known, meant.likeness))
        }
        (None, [only]) => {
            let title = format!("write {}, the only candidate", view.whereabouts(*only));
            finding.fix(rename(title, 0, Likeness::Misspelt))
        }
        (None, _) => finding.advice("choose a service that is defined"),
    }
}
