//! Reading troubles as findings.

use super::context::Context;
use super::lacks::Sought;
use super::sink::Sink;
use crate::facts::TroubleKind;
use crate::finding::{Finding, RuleText};

/// How many names a message lists.
const LISTED: usize = 5;
const FIX_FIRST: &str = "fix those that are told and audit again";

/// Reports the troubles of a kind under a rule, each with what is missing because of it.
pub(super) fn report_troubles(
    rule: &'static RuleText,
    kind: TroubleKind,
    context: &Context<'_>,
    sink: &mut Sink,
) {
    let hidden = hidden_names(context);
    for (number, trouble) in context.wiring.facts.troubles.iter().enumerate() {
        if trouble.kind != kind {
            continue;
        }
        let path = context.wiring.path(trouble.source);
        let (subject, mut message) = match trouble.and_more {
            0 => (trouble.subject.as_str(), trouble.message.clone()),
            1 => (path, format!("{path} has one more such fault, which is not told by itself")),
            more => (path, format!("{path} has {more} more such faults, which are not told one by one")),
        };
        if let Some(names) = hidden.get(number).filter(|names| !names.is_empty()) {
            let more = names.len().saturating_sub(LISTED);
            let rest = if more > 0 { format!(" and {more} more") } else { String::new() };
            let listed = names[..names.len().min(LISTED)].join(", ");
            message =
                format!("{message}; found nowhere else, and perhaps in what was not read: {listed}{rest}");
        }
        let mut finding = Finding::new(rule, subject, message);
        if trouble.and_more > 0 {
            sink.report(finding.at(trouble.source, trouble.at.0, "the first of them").advice(FIX_FIRST));
            continue;
        }
        finding = finding.at(trouble.source, trouble.at.0, trouble.at.1);
        if let Some((span, role)) = trouble.other {
            finding = finding.at(trouble.source, span, role);
        }
        finding.fixes.extend(trouble.fixes.iter().cloned());
        finding.severity = trouble.severity.unwrap_or(finding.severity);
        sink.report(finding);
    }
}

/// By trouble: names that are needed, defined nowhere else, and stand in the text it hides.
fn hidden_names<'a>(context: &Context<'a>) -> Vec<Vec<&'a str>> {
    let mut hidden = vec![Vec::new(); context.wiring.facts.troubles.len()];
    for lack in &context.lacks.all {
        let name = match lack.sought {
            Sought::Service(name) | Sought::Contract(name) | Sought::Setting(name) => name,
            Sought::Key(_, key) => key,
            Sought::Question(_) | Sought::Wrapped(_) => continue,
        };
        if let Some(hidden) = lack.hidden_by.and_then(|number| hidden.get_mut(number.index())) {
            hidden.push(context.wiring.text(name));
        }
    }
    hidden
}
