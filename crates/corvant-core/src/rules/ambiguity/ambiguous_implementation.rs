//! `ambiguous-implementation`: several services offer a contract, and nothing says which is meant.

use crate::finding::{Action, Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity, Value};
use crate::resolve::Ambiguity;
use crate::rules::Rule;
use crate::source::SourceIndex;
use crate::views::{Check, Sink, StageView};
use crate::wording::EditSort;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "ambiguous-implementation",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "a contract that several services offer, that is needed, and that nothing settles",
        why: "Which of them is handed out is a matter of luck, or the application refuses to start.",
        limits: "Several candidates are no fault as long as nothing needs the contract as one: needs on a key or a \
             tag are questions of their own. A key of something installed, or of what is meant for all, may be \
             claimed by several: then only the need of one of them is a fault.",
        fixes: Certainty::Likely,
        faulty: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer] }
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer] }
entries:
  announce: { needs: { voice: { contract: Announcer } } }
"#,
        corrected: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer], default: true }
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer], key: cabin }
entries:
  announce: { needs: { voice: { contract: Announcer }, cabin: { contract: Announcer, key: cabin } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

/// Candidates that a finding has places of; the message says how many there are. They are not looked through, and
/// they may be as many for each of as many contracts.
const PLACED: usize = 100;

fn check(view: &StageView<'_>, sink: &mut Sink) {
    // Two services under one key, and two defaults, are faults of their own.
    for &number in &view.clashes().open {
        let Some(lack) = view.lack_of(number) else { continue };
        let question = &view.resolution().ambiguous[number.index()];
        let contract = view.text(question.contract);
        let key = question.key.map(|key| view.text(key));
        let subject = key.map_or_else(|| contract.to_owned(), |key| format!("{contract}#{key}"));
        let under = key.map_or_else(String::new, |key| format!(" under the key {key}"));
        let message = format!(
            "{} services offer {contract}{under} and nothing says which is meant; {}",
            question.candidates.len(),
            view.seekers(&lack.uses)
        );
        let (first, rest) = lack.uses.split_at(1);
        let mut finding = Finding::new(&RULE.text, subject, message).used_by(first);
        for &candidate in question.candidates.iter().take(PLACED) {
            let service = view.service(candidate);
            let role = format!("candidate {}", view.id(candidate));
            finding = finding.at(service.source, service.id.span, role);
        }
        finding = finding.used_by(rest);
        finding.fixes = fixes(view, question);
        sink.report(finding);
    }
}

fn fixes(view: &StageView<'_>, question: &Ambiguity) -> Vec<Fix> {
    let candidates = || question.candidates.iter().copied();
    let contract = view.text(question.contract);
    let first = question.candidates.first().map_or("", |&first| view.id(first));
    let mut fixes = Vec::new();
    let default = question.candidates.first().map(|&first| {
        let service = view.service(first);
        let action = Action::Give("default", Value::Flag(true));
        Change::new(service.source, service.id.span, action)
    });
    let source =
        question.candidates.first().map_or(SourceIndex::default(), |&first| view.service(first).source);
    let mark = view.say(source, EditSort::Default, first, || format!("mark {first} `default: true`"));
    fixes.push(Fix::likely(format!("{mark}, or whichever of them is meant"), default));
    let choose = view.say(source, EditSort::Choice, first, || match question.key {
        None => format!("record a choice: `choices: {{ {contract}: {{ default: {first} }} }}`"),
        Some(key) => {
            let key = view.text(key);
            format!("record a choice: `choices: {{ {contract}: {{ keys: {{ {key}: {first} }} }} }}`")
        }
    });
    fixes.push(Fix::advice(format!("or {choose}")));
    let keyed = candidates().map_while(|candidate| view.service(candidate).key);
    let keys: Vec<&str> = keyed.take(PLACED).map(|key| view.text(key.name)).collect();
    if question.key.is_none() && keys.len() == question.candidates.len().min(PLACED) {
        let most = keys.len().min(5);
        fixes.push(Fix::advice(format!("or ask for one by its key: {}", keys[..most].join(", "))));
    }
    fixes
}
