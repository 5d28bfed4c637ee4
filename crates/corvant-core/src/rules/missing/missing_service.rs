//! `missing-service`: an id that is not defined.

use crate::finding::{Family, Finding, Fix, RuleText, Scope, Severity};
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
    let inactive = inactive(view);
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
        finding.fixes = fixes(view, lack, id, &inactive);
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

fn fixes(view: &StageView<'_>, lack: &Lack, id: Name, inactive: &HashMap<Name, ServiceIndex>) -> Vec<Fix> {
    let text = view.text(id);
    if let Some(&index) = inactive.get(&id) {
        let service = view.service(index);
        let place = view.whereabouts(index);
        return vec![Fix::advice(if service.template {
            let own = || format!("define a service that is `like: {text}`");
            let like = view.say(service.source, EditSort::Like, text, own);
            format!("{place} is a template, which is never built: {like}")
        } else {
            let stages = view.stages_of(service);
            format!("{place} is limited to {stages}: define it here too, or limit those that need it")
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

#[cfg(test)]
mod tests {
    use corvant_testing::{expect, messages};
    use rstest::rstest;

    #[test]
    fn many_needs_on_one_missing_service_are_one_finding() {
        expect(
            r#"
//- web.wiring.yaml
corvant: 1
module: web
services:
  web.map: { type: velmora.web.Map, needs: { tiles: { service: web.tiles } } }
                                                               ^^^^^^^^^ missing-service web.tiles
  web.plan: { type: velmora.web.Plan, needs: { tiles: { service: web.tiles, lazy: true } } }
entries:
  map: { needs: { map: { service: web.map }, plan: { service: web.plan }, tiles: { service: web.tiles } } }
"#,
        );
    }

    #[test]
    fn optional_supplied_and_looped_needs_are_silent() {
        expect(
            r#"
//- web.wiring.yaml
corvant: 1
module: web
supplied: { services: [host.log] }
services:
  web.log: { alias-of: host.log }
entries:
  map:
    needs:
      log: { service: host.log }
      other: { service: web.log }
      none: { service: web.none, optional: true }
"#,
        );
    }

    #[test]
    fn aliases_wrappers_replacements_models_and_collectors_need_their_targets() {
        expect(
            r#"
//- web.wiring.yaml
corvant: 1
module: web
tags:
  layer: { collected-by: web.painter }
                         ^^^^^^^^^^^ missing-service web.painter
services:
  web.map: { alias-of: web.old-map }
                       ^^^^^^^^^^^ missing-service web.old-map
  web.layer: { type: velmora.web.Layer, tags: [layer] }
  web.cached: { type: velmora.web.Cached, wraps: web.gone }
                                                 ^^^^^^^^ missing-service web.gone
  web.tiles: { type: velmora.web.Tiles, replaces: host.tiles }
                                                  ^^^^^^^^^^ missing-service host.tiles
  web.plan: { type: velmora.web.Plan, like: web.common }
                                            ^^^^^^^^^^ missing-service web.common
entries:
  map: { needs: { a: { service: web.cached }, b: { service: web.tiles }, c: { service: web.plan }, d: { service: web.map } } }
"#,
        );
    }

    #[rstest]
    #[case::meant("{ service: web.tlies }", "write web.tiles (a.wiring.yaml:4)")]
    #[case::supplied("{ service: host.lgo }", "write host.log (supplied by the host platform)")]
    #[case::template("{ service: web.common }", "web.common (a.wiring.yaml:5) is a template")]
    #[case::stage("{ service: web.drill }", "web.drill (a.wiring.yaml:6) is limited to stage drill")]
    #[case::nothing_like_it(
        "{ service: depot.gate }",
        "define depot.gate, or list it under `supplied: services`"
    )]
    fn help_says_what_to_do(#[case] need: &str, #[case] help: &str) {
        let text = format!(
            "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  web.tiles: {{}}\n  web.common: {{ template: true }}\n  web.drill: {{ stages: [drill] }}\nsupplied: {{ services: [host.log] }}\nentries:\n  map: {{ needs: {{ x: {need} }} }}\n"
        );
        let found = messages(&text);
        assert!(
            found.iter().any(|found| found.rule == "missing-service" && found.text.contains(help)),
            "{found:#?}"
        );
    }
}
