//! `missing-implementation`: a contract that nothing offers.

use crate::finding::{Certainty, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, DormantKind, Lack, Sink, Sought, StageView};
use crate::wiring::{ServiceIndex, Wiring};
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt};
use std::cell::LazyCell;

/// How many types that could be meant are named.
const TYPES: usize = 3;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-implementation",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a contract that is needed and that no active service offers",
        why: "There is nothing to hand out: what needs the contract cannot be built.",
        limits: "An optional need may go unmet, and contracts that the host platform supplies are assumed to be there. \
             What stands in text that could not be read is that text's finding.",
        fixes: Certainty::Certain,
        faulty: r#"
//- incidents.wiring.yaml
corvant: 1
module: incidents
services:
  incidents.desk: { type: velmora.incidents.Desk, needs: { clock: { contract: Clock } } }
entries:
  report-incident: { needs: { desk: { service: incidents.desk } } }
"#,
        corrected: r#"
//- incidents.wiring.yaml
corvant: 1
module: incidents
services:
  incidents.desk: { type: velmora.incidents.Desk, needs: { clock: { contract: Clock } } }
  incidents.clock: { type: velmora.incidents.DeskClock, offers: [Clock] }
entries:
  report-incident: { needs: { desk: { service: incidents.desk } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    if !view.certain_lacks().any(|lack| matches!(lack.sought, Sought::Contract(_))) {
        return;
    }
    let inactive = inactive(view);
    let built = LazyCell::new(|| built_from(view.for_advice()));
    for lack in view.certain_lacks() {
        let Sought::Contract(contract) = lack.sought else { continue };
        let text = view.text(contract);
        let key = lack.uses.first().and_then(|used| used.key).map(|key| format!("#{}", view.text(key)));
        let message = format!("no active service offers {text}; {}", view.seekers(&lack.uses));
        let mut finding = Finding::new(&RULE.text, text, message).used_by(&lack.uses);
        if let Some(key) = key.filter(|_| lack.uses.iter().all(|used| used.key == lack.uses[0].key)) {
            finding.subject.push_str(&key);
        }
        finding.fixes = fixes(view, contract, lack, inactive.get(&contract).copied());
        if let Some(of) = view.for_advice().types().find(text) {
            let at = finding.fixes.len() - 1;
            finding.fixes.splice(at..at, fixes_by_type(view, of, &built));
        }
        sink.report(finding);
    }
}

fn fixes(view: &StageView<'_>, contract: Name, lack: &Lack, inactive: Option<ServiceIndex>) -> Vec<Fix> {
    let text = view.text(contract);
    let mut fixes = Vec::new();
    if let Some(meant) = lack.meant {
        let offering =
            view.resolution().offering_anywhere(meant.name).first().map(|&first| view.whereabouts(first));
        let by = offering
            .map_or_else(|| "supplied by the host platform".to_owned(), |by| format!("offered by {by}"));
        fixes.push(view.write(&format!("{}, {by}", view.text(meant.name)), &lack.uses, contract, meant));
    }
    fixes.extend(inactive.map(|service| Fix::advice(why_not(view, service))));
    fixes.extend(view.dormant(DormantKind::Offer, contract));
    let source = lack.uses[0].source;
    let offer = view
        .say(source, EditSort::Offer, text, || format!("add `offers: [{text}]` to the service that has it"));
    let supply =
        view.say(source, EditSort::Supplied, text, || "list it under `supplied: contracts`".to_owned());
    fixes.push(Fix::advice(format!("{offer}, or {supply}")));
    fixes
}

/// By number of a type the first service that is built from it.
fn built_from(wiring: &Wiring) -> HashMap<usize, ServiceIndex> {
    let mut built = HashMap::new();
    for (index, service) in wiring.services().filter(|(_, service)| service.may_be_built()) {
        let of = service.type_name.and_then(|named| wiring.types().find(wiring.text(named.name)));
        if let Some(of) = of {
            built.entry(of).or_insert(index);
        }
    }
    built
}

/// What to do with types that are of the one that is needed: let their services offer it, or define some.
fn fixes_by_type(view: &StageView<'_>, of: usize, built: &HashMap<usize, ServiceIndex>) -> Vec<Fix> {
    let (facts, types) = (&view.for_advice().facts, view.for_advice().types());
    let own = Some(of).filter(|&of| !facts.declared_types[of].is_abstract);
    let all: Vec<usize> = own.into_iter().chain(types.concrete_below(of)).take(TYPES).collect();
    let fix = |number: usize| {
        let declared = &facts.declared_types[number];
        let whereabouts = format!(
            "{} ({})",
            view.text(declared.name.name),
            view.address(declared.source, declared.name.span)
        );
        Fix::advice(match built.get(&number) {
            Some(&service) => format!("let {} offer it: its type {whereabouts} is one", view.id(service)),
            None => format!("make a service of {whereabouts}"),
        })
    };
    all.into_iter().map(fix).collect()
}

/// By contract the first definition that offers it and does not count in this stage.
fn inactive(view: &StageView<'_>) -> HashMap<Name, ServiceIndex> {
    let mut inactive = HashMap::new();
    for (index, service) in view.for_advice().services() {
        let is_elsewhere = service.is_limited() && !view.resolution().ids.is_active(index);
        if service.template || is_elsewhere {
            for offer in service.offers.of(view.parts()) {
                inactive.entry(offer.name).or_insert(index);
            }
        }
    }
    inactive
}

fn why_not(view: &StageView<'_>, index: ServiceIndex) -> String {
    let (place, service) = (view.whereabouts(index), view.service(index));
    if service.template {
        let own = || "define a service that is `like` it".to_owned();
        let like = view.say(service.source, EditSort::Like, view.id(index), own);
        format!("{place} offers it, but is a template: {like}")
    } else {
        format!("{place} offers it, but {}", view.limits_of(service))
    }
}
