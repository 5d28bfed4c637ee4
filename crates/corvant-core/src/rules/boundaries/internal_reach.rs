//! `internal-reach`: a need on another module's internal service.

use crate::facts::{Need, Target};
use crate::finding::{Action, Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::graph::{Node, What};
use crate::name::Name;
use crate::resolve::Met;
use crate::rules::Rule;
use crate::source::Place;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::{ModuleIndex, NeedIndex, ServiceIndex, needs_of};
use crate::wording::EditSort;
use foldhash::HashSet;
use std::collections::BTreeMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "internal-reach",
        family: Family::Boundaries,
        severity: Severity::Error,
        summary: "a need on another module's internal service",
        why: "What a module keeps to itself may change or go at any time: what reaches for it breaks without \
          warning.",
        limits: "A need that reaches it through an alias or a wrapper of its own module is what such an alias is \
             for, and is not reported; those of other modules open nothing. What collects a tag, or all that \
             offer a contract, may collect what is internal.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
entries:
  stop-display: { needs: { cache: { service: vehicles.cache } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services: { vehicles.cache: { type: velmora.vehicles.Cache, internal: true } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
entries:
  stop-display: { needs: { cache: { service: vehicles.cache } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services: { vehicles.cache: { type: velmora.vehicles.Cache } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    if !wiring.has_internal {
        return;
    }
    // Contracts for which an alias is chosen: that may be internal, whatever it leads to.
    let choices = wiring.facts.choices.iter();
    let of_aliases = choices.filter(|choice| {
        let mut definitions = wiring.definitions(choice.service.name);
        definitions.any(|index| wiring.service(index).alias_of.is_some())
    });
    let chosen_aliases: HashSet<Name> = of_aliases.map(|choice| choice.contract.name).collect();
    let mut reached: BTreeMap<ServiceIndex, Vec<&Need>> = BTreeMap::new();
    let mut seen = HashSet::default();
    let has_needs = |&node: &Node| match view.graph().what(node) {
        What::Service(service) => view.resolution().ids.has_needs(wiring, service),
        _ => true,
    };
    let holders = view.graph().nodes().filter(has_needs);
    for holder in holders {
        for at in needs_of(wiring, holder).into_iter().flatten() {
            let need = &wiring.facts.parts.needs[at];
            let Some(service) = internal(view, &chosen_aliases, need, NeedIndex(at as u32)) else {
                continue;
            };
            // What several inherit is written once.
            if seen.insert((need.source, need.span, service)) {
                reached.entry(service).or_default().push(need);
            }
        }
    }
    for (service, needs) in reached {
        sink.report(finding(view, service, needs));
    }
}

/// The internal service of another module that a need comes to name, if its own module does not hand it out.
fn internal(
    view: &WholeStageView<'_>,
    chosen_aliases: &HashSet<Name>,
    need: &Need,
    number: NeedIndex,
) -> Option<ServiceIndex> {
    let ids = &view.resolution().ids;
    let from = view.wiring().module_of(need.source)?;
    match (need.target, view.resolution().met(number)) {
        (Target::Service(id), Met::Service(_)) => {
            // Nearly all ids name what is neither an alias nor internal.
            let named = view.service(ids.named(id)?);
            if named.alias_of.is_none() && !named.internal { None } else { on_the_way(view, from, id) }
        }
        (Target::Contract(contract), Met::Service(service)) => {
            let is_open = !view.service(service).internal && ids.inside(service).is_none();
            if is_open && !chosen_aliases.contains(&contract) {
                return None;
            }
            let key = need.key.map(|key| key.name);
            if let Some(chosen) = view.resolution().chosen(contract, key) {
                return on_the_way(view, from, chosen);
            }
            let offers = view.resolution().offers(view.wiring(), contract, key);
            let mut by = offers.first().iter().filter(|offer| offer.service == service);
            let first = by.next()?.by;
            let is_closed = |by: ServiceIndex| is_closed(view, from, by);
            (is_closed(first) && by.all(|offer| is_closed(offer.by))).then_some(first)
        }
        // What a wrapper holds it names by `wraps`.
        (Target::Wrapped, Met::Service(inside)) => {
            let is_named = ids.wrapper(inside).is_some();
            (is_named && is_internal_to_another(view, from, inside)).then_some(inside)
        }
        _ => None,
    }
}

/// Follows an id over aliases to what it stands for: the first internal definition of another module, unless an
/// alias of that module leads there.
fn on_the_way(view: &WholeStageView<'_>, from: ModuleIndex, id: Name) -> Option<ServiceIndex> {
    let (wiring, ids) = (view.wiring(), &view.resolution().ids);
    let mut opened: HashSet<ModuleIndex> = HashSet::default();
    let mut at = ids.named(id)?;
    // No way is longer than there are links.
    for _ in 0..=wiring.linked.len() {
        let module = wiring.module_of(wiring.service(at).source);
        let is_open = module.is_some_and(|module| opened.contains(&module));
        if !is_open && is_closed(view, from, at) {
            return Some(at);
        }
        let target = wiring.service(at).alias_of?;
        opened.extend(module);
        at = ids.named(target.name)?;
    }
    None
}

/// Whether a definition is internal to another module than `from`, and no wrapper of its own module is around it.
fn is_closed(view: &WholeStageView<'_>, from: ModuleIndex, service: ServiceIndex) -> bool {
    let (wiring, ids) = (view.wiring(), &view.resolution().ids);
    let module = wiring.module_of(wiring.service(service).source);
    let opens = |wrapper: ServiceIndex| {
        let wrapper = wiring.service(wrapper);
        wiring.module_of(wrapper.source) == module && !wrapper.internal
    };
    is_internal_to_another(view, from, service)
        && !std::iter::successors(ids.wrapper(service), |&wrapper| ids.wrapper(wrapper)).any(opens)
}

fn is_internal_to_another(view: &WholeStageView<'_>, from: ModuleIndex, service: ServiceIndex) -> bool {
    let definition = view.service(service);
    let module = view.wiring().module_of(definition.source);
    definition.internal && module.is_some_and(|module| module != from)
}

fn finding(view: &WholeStageView<'_>, service: ServiceIndex, needs: Vec<&Need>) -> Finding {
    let wiring = view.wiring();
    let (id, definition) = (wiring.id(service), wiring.service(service));
    let owner = wiring.module_name(definition.source).unwrap_or("?");
    let message = format!("{id} is internal to {owner}, and others need it");
    let own = || format!("take `internal` from {id}");
    let public = view.say(definition.source, EditSort::Public, id, own);
    let help = format!("need what {owner} hands out instead, or {public}");
    let withdraw = Change::new(definition.source, definition.id.span, Action::Withdraw("internal"));
    let mut finding = Finding::new(&RULE.text, id, message).fix(Fix::likely(help, [withdraw]));
    for need in needs {
        let role = format!("needed here by {}", wiring.module_name(need.source).unwrap_or("?"));
        finding.places.push(Place::new(need.source, need.span, role));
    }
    finding.at(definition.source, definition.id.span, "internal here")
}
