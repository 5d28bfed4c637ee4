//! `abstract-type`: a service is built from what cannot be built.

use crate::facts::TypeKind;
use crate::finding::{Certainty, Change, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::rules::Rule;
use crate::views::{Check, Sink, Typed, WorkspaceView, typed_services, written_as};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "abstract-type",
        family: Family::Types,
        severity: Severity::Error,
        summary: "a service is built from an interface or an abstract class",
        why: "Nothing can be made of such a type: the service fails when it is first built.",
        limits: "A service that a factory builds may name what the factory returns. Templates are never built. Of types \
                 outside the code that was read nobody can know what they are.",
        fixes: Certainty::Likely,
        faulty: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
//- src/Gate.java
package velmora.depot;
public interface Gate { }
class IronGate implements Gate { }
"#,
        corrected: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.IronGate }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
//- src/Gate.java
package velmora.depot;
public interface Gate { }
class IronGate implements Gate { }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

/// How many types that could be meant are named.
const TOLD: usize = 3;

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let built =
        typed_services(view).into_iter().filter(|typed| typed.declared.is_abstract && !typed.is_made(view));
    for typed in built {
        sink.report(finding(view, &typed, &view.wiring().types().concrete_below(typed.number)));
    }
}

fn finding(view: &WorkspaceView<'_>, typed: &Typed<'_>, concrete: &[usize]) -> Finding {
    let (id, written) = (view.id(typed.index), typed.service.type_name);
    let of = view.text(typed.declared.name.name);
    let what = match typed.declared.kind {
        TypeKind::Interface => "an interface",
        TypeKind::Trait => "a trait",
        TypeKind::Mark => "a mark",
        _ => "abstract",
    };
    let message = format!("{id} is built from {of}, which is {what}: nothing can be made of it");
    let mut finding = Finding::new(&RULE.text, id, message);
    let source = typed.service.source;
    if let Some(written) = written {
        finding = finding.at(source, written.span, "named here");
    }
    finding = finding.at(typed.declared.source, typed.declared.name.span, "declared here");
    let facts = &view.wiring().facts;
    for &number in concrete.iter().take(TOLD) {
        let declared = &facts.declared_types[number];
        let Some(written) = written else { break };
        let from = view.text(written.name);
        let to = written_as(&view.text(declared.name.name).replace(['\\', '#', '/'], "."), from);
        let title = format!("write {to} ({})", view.address(declared.source, declared.name.span));
        let fix = Fix::likely(title, [Change::rename(source, written.span, from, &to)]);
        finding = finding.fix(fix);
    }
    let origin = Origin { node: Graph::service(typed.index), while_building: true };
    finding.advice("name a type that can be built, or say what builds it").failing([origin])
}
