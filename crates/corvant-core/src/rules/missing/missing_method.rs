//! `missing-method`: a setter or factory method that the type does not have.

use crate::facts::{Need, Target, Via};
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::near::meanings;
use crate::resolve::Met;
use crate::rules::Rule;
use crate::source::{Place, SourceIndex, Span};
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::NeedIndex;
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-method",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a setter or factory method that is not on the type",
        why: "The call fails when the service is built: after the service itself was made, or in the factory's place.",
        limits: "Where a super type is outside the code that was read, or a type answers to whatever name is called, nobody \
                 can know which methods it has. Enumerations and records have methods that nobody writes: of those none is \
                 missed.",
        fixes: Certainty::Certain,
        faulty: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.yard: {}
  depot.gate:
    type: velmora.depot.Gate
    needs: { yard: { service: depot.yard, via: setter, method: setYrad } }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
//- src/Gate.java
package velmora.depot;
public class Gate { public void setYard(Object yard) { } }
"#,
        corrected: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.yard: {}
  depot.gate:
    type: velmora.depot.Gate
    needs: { yard: { service: depot.yard, via: setter, method: setYard } }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
//- src/Gate.java
package velmora.depot;
public class Gate { public void setYard(Object yard) { } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

/// A method that a type does not have, and who calls it.
#[derive(Default)]
struct Missed {
    subject: String,
    of: usize,
    method: String,
    places: Vec<Place>,
    /// Where the method is written.
    written: Vec<(SourceIndex, Span)>,
    origins: Vec<Origin>,
}

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    if wiring.types().is_empty() {
        return;
    }
    let mut numbers: HashMap<(usize, crate::name::Name), Option<usize>> = HashMap::default();
    let mut all: Vec<Missed> = Vec::new();
    for (index, service) in wiring.services() {
        for number in service.needs.range() {
            let need = &view.parts().needs[number];
            let Some(method) = need.method else { continue };
            let Some(of) = holder_of_method(view, service.type_name, need, NeedIndex(number as u32)) else {
                continue;
            };
            let known = numbers.entry((of, method.name)).or_insert_with(|| {
                let text = view.text(method.name);
                (wiring.types().has_method(of, text) == Some(false)).then(|| {
                    let type_name = view.text(wiring.facts.declared_types[of].name.name);
                    let subject = format!("{type_name}.{text}");
                    let method = text.to_owned();
                    all.push(Missed { subject, of, method, ..Missed::default() });
                    all.len() - 1
                })
            });
            let Some(known) = *known else { continue };
            let role = if need.via == Via::Factory { "is to build" } else { "is to fill" };
            let what = if need.via == Via::Factory { view.id(index) } else { view.text(need.slot.name) };
            let place = Place::new(need.source, need.slot.span, format!("{role} {what}"));
            if !all[known].places.contains(&place) {
                all[known].places.push(place);
            }
            let written = (need.source, method.span);
            if !all[known].written.contains(&written) {
                all[known].written.push(written);
            }
            all[known]
                .origins
                .push(Origin { node: Graph::service(index), while_building: need.is_for_building() });
        }
    }
    for missed in all {
        sink.report(finding(view, missed));
    }
}

/// The type whose method a need calls: the holder's for a setter, the factory's for a factory.
fn holder_of_method(
    view: &WorkspaceView<'_>,
    own: Option<crate::facts::Named>,
    need: &Need,
    number: NeedIndex,
) -> Option<usize> {
    let wiring = view.wiring();
    let type_name = match (need.via, need.target) {
        (Via::Setter, _) => own,
        (Via::Factory, Target::Service(_)) => match view.resolution().met(number) {
            Met::Service(factory) => wiring.service(factory).type_name,
            _ => None,
        },
        _ => None,
    };
    wiring.types().find(wiring.text(type_name?.name))
}

fn finding(view: &WorkspaceView<'_>, missed: Missed) -> Finding {
    let wiring = view.wiring();
    let declared = &wiring.facts.declared_types[missed.of];
    let of = view.text(declared.name.name);
    let mut finding =
        Finding::new(&RULE.text, missed.subject, format!("{of} has no method {}", missed.method));
    finding.places = missed.places;
    finding = finding.at(declared.source, declared.name.span, format!("{of} is declared here"));
    let known = wiring.types().methods(missed.of);
    let texts: Vec<&str> = known.iter().map(|(_, method)| view.text(method.name.name)).collect();
    if let Some(meant) = meanings(&[missed.method.as_str()], &texts)[0] {
        let (source, method) = known[meant.known];
        let title = format!("write {} ({})", texts[meant.known], view.address(source, method.name.span));
        let (from, to) = (&missed.method, texts[meant.known]);
        finding = finding.fix(Fix::rename(title, missed.written, from, to, meant.likeness));
    }
    finding.advice("declare it, or name the method that is meant").failing(missed.origins)
}
