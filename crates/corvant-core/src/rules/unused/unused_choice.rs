//! `unused-choice`: a choice that no need asks for.

use crate::facts::Target;
use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-choice",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "a choice that no need asks for",
        why: "It settles a question that nothing asks; most likely the question has another key or another \
          contract.",
        limits: "Needs of services that are themselves unused count, and so do expectations.",
        fixes: Certainty::Likely,
        faulty: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
choices: { Announcer: { keys: { cabin: announcements.cabin } } }
services:
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer] }
entries:
  announce: { needs: { voice: { contract: Announcer } } }
"#,
        corrected: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
choices: { Announcer: { keys: { cabin: announcements.cabin } } }
services:
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer] }
entries:
  announce: { needs: { voice: { contract: Announcer }, cabin: { contract: Announcer, key: cabin } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let mut asked: HashSet<(Name, Option<Name>)> = HashSet::default();
    let needs = view.usage().needs(view.wiring());
    asked.extend(needs.filter_map(|need| match need.target {
        Target::Contract(contract) => Some((contract, need.key.map(|key| key.name))),
        _ => None,
    }));
    asked.extend(
        facts
            .expectations
            .iter()
            .filter_map(|line| Some((line.contract?.name, line.key.map(|key| key.name)))),
    );
    for choice in &facts.idle_choices {
        let Some(holder) = choice.holder else { continue };
        let (holder_text, contract) = (view.text(holder.name), view.text(choice.contract.name));
        let under = choice.key.map_or_else(String::new, |key| format!("#{}", view.text(key.name)));
        let message =
            format!("{holder_text} does not need {contract}{under}, so what it is given settles nothing");
        let finding = Finding::new(&RULE.text, format!("{holder_text} > {contract}{under}"), message)
            .at(choice.source, holder.span, "chosen for it here")
            .advice("take it out, or choose what it needs");
        sink.report(finding);
    }
    let mut beside: HashMap<_, usize> = HashMap::default();
    for choice in &facts.choices {
        *beside.entry((choice.source, choice.contract.span)).or_default() += 1;
    }
    for choice in &facts.choices {
        let (contract, key) = (choice.contract.name, choice.key.map(|key| key.name));
        if view.doubts().is_opaque()
            || view.doubts().mentions(contract).is_some()
            || view.may_be_needed(choice.source)
            || !asked.insert((contract, key))
        {
            continue;
        }
        let under = key.map_or_else(String::new, |key| format!("#{}", view.text(key)));
        let subject = format!("{}{under}", view.text(contract));
        let span = choice.key.map_or(choice.contract.span, |key| key.span);
        let finding = Finding::new(
            &RULE.text,
            subject.clone(),
            format!("nothing needs {subject}, so choosing it settles nothing"),
        )
        .at(choice.source, span, "chosen here");
        // With a contract go the choices of its keys.
        let is_alone = choice.key.is_some() || beside[&(choice.source, choice.contract.span)] == 1;
        let change = is_alone.then(|| Change::take_out(choice.source, span));
        let title = "take it out, or choose for the contract and key that are needed";
        sink.report(finding.fix(Fix::likely(title, change)));
    }
}
