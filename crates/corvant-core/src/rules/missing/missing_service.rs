//! `missing-service`: an id that is not defined.

use crate::facts::Removed;
use crate::finding::{Certainty, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::graph::{Node, What};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, DormantKind, Lack, Sink, Sought, StageView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-service",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a service that is needed by its id and is not defined",
        why: "What needs it cannot be built: the application fails when it starts, or when the first request \
          reaches an entry that leads there.",
        limits: "An optional need may go unmet. Names that the host platform supplies are assumed to be there. An id \
             that stands in a file, or a part of one, that could not be read is that file's finding.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { type: velmora.timetable.Board, needs: { fleet: { service: vehicles.flet } } }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services:
  vehicles.fleet: { type: velmora.vehicles.Fleet }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { type: velmora.timetable.Board, needs: { fleet: { service: vehicles.fleet } } }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
//- vehicles.wiring.yaml
corvant: 1
module: vehicles
services:
  vehicles.fleet: { type: velmora.vehicles.Fleet }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    let is_of_service = |lack: &Lack| matches!(lack.sought, Sought::Service(_) | Sought::Wrapped(_));
    if !view.certain_lacks().any(is_of_service) {
        return;
    }
    let (inactive, taken_away) = (inactive(view), taken_away(view));
    for lack in view.certain_lacks() {
        let id = match lack.sought {
            Sought::Service(id) => id,
            Sought::Wrapped(node) => {
                sink.report(wraps_nothing(view, node, lack));
                continue;
            }
            _ => continue,
        };
        // What is only looked up is a finding of the look-ups.
        if lack.uses.iter().all(|used| used.look_up) {
            continue;
        }
        let text = view.text(id);
        let message = format!("no module defines {text}; {}", view.seekers(&lack.uses));
        let mut finding = Finding::new(&RULE.text, text, message).used_by(&lack.uses);
        finding.fixes = fixes(view, lack, id, &inactive, &taken_away);
        sink.report(finding);
    }
}

/// A service that needs what it wraps, and wraps nothing.
fn wraps_nothing(view: &StageView<'_>, node: Node, lack: &Lack) -> Finding {
    let id = match view.graph().what(node) {
        What::Service(service) => view.id(service),
        _ => "",
    };
    Finding::new(&RULE.text, id, format!("{id} needs the service that it wraps, and wraps none"))
        .used_by(&lack.uses)
        .advice(format!("say which service {id} `wraps`, or take the need out"))
}

/// The first definition of every id that has one, but none that counts in this stage.
fn inactive(view: &StageView<'_>) -> HashMap<Name, ServiceIndex> {
    let is_missing = |id: Name| !view.resolution().ids.is_defined(id);
    let templates_and_others = view
        .for_advice()
        .services()
        .filter(|(index, service)| service.template || !view.resolution().ids.is_active(*index))
        .filter(|(_, service)| service.template || is_missing(service.id.name));
    let mut first = HashMap::new();
    for (index, service) in templates_and_others {
        first.entry(service.id.name).or_insert(index);
    }
    first
}

/// By id the first that takes it away in this stage.
fn taken_away<'a>(view: &StageView<'a>) -> HashMap<Name, &'a Removed> {
    let facts = &view.for_advice().facts;
    let stage = view.resolution().stage;
    let is_here = |removed: &&Removed| removed.is_in(stage, &facts.parts);
    let mut first = HashMap::new();
    for removed in facts.removed.iter().filter(is_here) {
        first.entry(removed.id.name).or_insert(removed);
    }
    first
}

fn fixes(
    view: &StageView<'_>,
    lack: &Lack,
    id: Name,
    inactive: &HashMap<Name, ServiceIndex>,
    taken_away: &HashMap<Name, &Removed>,
) -> Vec<Fix> {
    let text = view.text(id);
    if let Some(&index) = inactive.get(&id) {
        let service = view.service(index);
        let place = view.whereabouts(index);
        return vec![Fix::advice(if service.template {
            let own = || format!("define a service that is `like: {text}`");
            let like = view.say(service.source, EditSort::Like, text, own);
            format!("{place} is a template, which is never built: {like}")
        } else {
            let limits = view.limits_of(service);
            if let Some(removed) = taken_away.get(&id) {
                let here = view.address(removed.source, removed.id.span);
                return vec![Fix::advice(format!(
                    "{place} {limits}, for it is taken away there ({here}): do not, or limit those that need it"
                ))];
            }
            format!("{place} {limits}: define it here too, or limit those that need it")
        })];
    }
    let mut fixes = Vec::new();
    fixes.extend(view.dormant(DormantKind::Service, id));
    if let Some(meant) = lack.meant {
        let place = view.first_definition(meant.name).map_or_else(
            || format!("{} (supplied by the host platform)", view.text(meant.name)),
            |service| view.whereabouts(service),
        );
        fixes.push(view.write(&place, &lack.uses, id, meant));
    }
    let own = || "list it under `supplied: services`".to_owned();
    let supply = view.say(lack.uses[0].source, EditSort::Supplied, text, own);
    fixes.push(Fix::advice(format!("define {text}, or {supply} if the host platform brings it")));
    fixes
}
