//! `unmet-expectation`: wiring that is not what an expectation says.

use crate::facts::{Expectation, Named, SuppliedKind};
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::resolve::{Lead, Met};
use crate::rules::Rule;
use crate::source::Span;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::ServiceIndex;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unmet-expectation",
        family: Family::Expectations,
        severity: Severity::Error,
        summary: "wiring that is not what an expectation says",
        why: "Somebody wrote down what must hold, and it does not.",
        limits: "A type or lifetime that the service does not state cannot be compared and is not reported. \
             Expectations about names in text that could not be read are not checked.",
        fixes: Certainty::Advice,
        faulty: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
expect:
  - { contract: Clock, met-by: clock.system, type: velmora.clock.FrozenClock }
entries:
  station-clock: { needs: { clock: { contract: Clock } } }
"#,
        corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
expect:
  - { contract: Clock, met-by: clock.system, type: velmora.clock.SystemClock }
entries:
  station-clock: { needs: { clock: { contract: Clock } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    for line in &view.wiring().facts.expectations {
        let names = [line.contract, line.service, line.met_by].into_iter().flatten();
        let hidden = view.doubts().is_opaque()
            || names.clone().any(|name| view.doubts().mentions(name.name).is_some());
        if hidden {
            continue;
        }
        if let Err((span, what)) = compare(view, line) {
            let subject = subject(view, line);
            let message = format!("{subject} is not what is expected: {what}");
            let mut finding =
                Finding::new(&RULE.text, subject, message).at(line.source, span, "expected here");
            if let Ok(service) = met(view, line) {
                let definition = view.service(service);
                let role = format!("{} is what it is", view.id(service));
                finding = finding.at(definition.source, definition.id.span, role);
            }
            sink.report(
                finding.advice("change the wiring back, or the expectation if what is there now is meant"),
            );
        }
    }
}

fn subject(view: &WholeStageView<'_>, line: &Expectation) -> String {
    let name = line.contract.or(line.service).map_or("", |named| view.text(named.name));
    let key = line.key.map_or_else(String::new, |key| format!("#{}", view.text(key.name)));
    format!("{name}{key}")
}

/// What differs first, and where that is expected.
fn compare(view: &WholeStageView<'_>, line: &Expectation) -> Result<(), (Span, String)> {
    let subject_span = line.contract.or(line.service).map_or(Span::at(0), |named| named.span);
    let service = match met(view, line) {
        Ok(service) => service,
        Err(None) => return Ok(()),
        Err(Some(what)) => return Err((subject_span, what)),
    };
    if let Some(expected) = line.met_by {
        let is_expected = match view.resolution().ids.lead(view.wiring(), expected.name) {
            Lead::Service(expected) => expected == service,
            _ => false,
        };
        if !is_expected {
            let found = view.id(service);
            return Err((expected.span, format!("it is {found}, not {}", view.text(expected.name))));
        }
    }
    let definition = view.service(service);
    differs(view, "built from", line.type_name, definition.type_name)?;
    differs(view, "of lifetime", line.lifetime, definition.lifetime)
}

fn differs(
    view: &WholeStageView<'_>,
    what: &str,
    expected: Option<Named>,
    found: Option<Named>,
) -> Result<(), (Span, String)> {
    match (expected, found) {
        (Some(expected), Some(found)) if expected.name != found.name => Err((
            expected.span,
            format!("it is {what} {}, not {}", view.text(found.name), view.text(expected.name)),
        )),
        _ => Ok(()),
    }
}

/// The service that the line speaks of; else what is there instead, or nothing where that cannot be said.
fn met(view: &WholeStageView<'_>, line: &Expectation) -> Result<ServiceIndex, Option<String>> {
    if let Some(id) = line.service {
        return match view.resolution().ids.lead(view.wiring(), id.name) {
            Lead::Service(service) => Ok(service),
            _ if view.resolution().is_supplied(SuppliedKind::Service, id.name) => Err(None),
            Lead::Nowhere => Err(None),
            Lead::Template(_) => Err(Some("it is a template, which is never built".to_owned())),
            Lead::Undefined => Err(Some("it is not defined".to_owned())),
        };
    }
    let Some(contract) = line.contract else { return Err(None) };
    match view.resolution().ask(view.wiring(), contract.name, line.key.map(|key| key.name)) {
        Met::Service(service) => Ok(service),
        Met::Missing => Err(Some("no active service offers it".to_owned())),
        Met::MissingKey => Err(Some("it is not offered under this key".to_owned())),
        Met::Ambiguous(_) => {
            Err(Some("several services offer it and nothing says which is meant".to_owned()))
        }
        _ => Err(None),
    }
}
