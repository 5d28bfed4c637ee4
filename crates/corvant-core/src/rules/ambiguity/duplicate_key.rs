//! `duplicate-key`: two services under one key of one contract.

use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Clash, Sink, StageView};
use crate::wording::EditSort;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "duplicate-key",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "two services under one key of one contract",
        why: "Which of them is handed out under the key is a matter of luck, or the application refuses to \
          start.",
        limits: "A choice for the key, or one candidate marked as default, settles it. Services that offer the \
             contract through narrower ones clash where something needs it under the key. Definitions that never meet \
             in one stage do not clash, nor do those that are installed into different places. Entry points of \
             distributions clash in the groups console_scripts and gui_scripts alone: there each name becomes \
             one file, and who is installed last overwrites it. In every other group the specification leaves \
             equal names of different distributions to the reader of the group, and a group may be read whole: of \
             471 names in 356 installed distributions, the only one given by several was meant to be.",
        fixes: Certainty::Advice,
        faulty: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.old: { type: velmora.OldVoice, offers: [Announcer], key: cabin }
  announcements.new: { type: velmora.NewVoice, offers: [Announcer], key: cabin }
entries:
  announce: { needs: { voice: { contract: Announcer, key: cabin } } }
"#,
        corrected: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.old: { type: velmora.OldVoice, offers: [Announcer], key: street }
  announcements.new: { type: velmora.NewVoice, offers: [Announcer], key: cabin }
entries:
  announce:
    needs: { voice: { contract: Announcer, key: cabin }, old: { contract: Announcer, key: street } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    for clash in &view.clashes().keys {
        sink.report(finding(view, clash));
    }
}

fn finding(view: &StageView<'_>, clash: &Clash) -> Finding {
    let contract = view.text(clash.contract);
    let key = clash.key.map_or("", |key| view.text(key));
    let uses = view.uses_of(clash);
    let needed = if uses.is_empty() { String::new() } else { format!("; {}", view.seekers(&uses)) };
    let message = format!("{} services offer {contract} under the key {key}{needed}", clash.offers.len());
    let mut finding = Finding::new(&RULE.text, format!("{contract}#{key}"), message);
    for offer in &clash.offers {
        let definition = view.service(offer.by);
        let span = definition.key.map_or(definition.id.span, |key| key.span);
        // What is handed out is known by what it starts, more than by the file that says so.
        let starts = definition.type_name.filter(|_| definition.of_standard.installed.is_some());
        let starts = starts.map_or_else(String::new, |known| format!(" as {}", view.text(known.name)));
        let role = format!("offered by {}{starts}", view.id(offer.by));
        finding = finding.at(definition.source, span, role);
    }
    let first = clash.offers[0].service;
    finding = if view.service(first).of_standard.installed.is_some() {
        finding.advice("take one of them out, or give it another name")
    } else {
        let (source, first) = (view.service(first).source, view.id(first));
        let choose = view.say(source, EditSort::Choice, first, || {
            format!("record a choice: `choices: {{ {contract}: {{ keys: {{ {key}: {first} }} }} }}`")
        });
        finding.advice("give one of them another key").advice(format!("or {choose}"))
    };
    finding.used_by(&uses)
}
