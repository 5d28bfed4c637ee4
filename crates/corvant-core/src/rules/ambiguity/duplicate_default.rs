//! `duplicate-default`: two defaults, or two choices, for one contract.

use crate::facts::Choice;
use crate::finding::{Action, Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::source::Place;
use crate::views::{Check, Clash, Sink, StageView};
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "duplicate-default",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "two defaults, or two choices, for one contract",
        why: "One of the decisions is silently lost, and which one depends on the order in which modules are \
          loaded.",
        limits: "Two choices that name the same service are one decision. Services in different stages do not \
             clash.",
        fixes: Certainty::Likely,
        faulty: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer], default: true }
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer], default: true }
entries:
  announce: { needs: { voice: { contract: Announcer } } }
"#,
        corrected: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer], default: true }
  announcements.cabin: { type: velmora.CabinVoice, offers: [Announcer] }
entries:
  announce: { needs: { voice: { contract: Announcer }, cabin: { service: announcements.cabin } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    two_choices(view, sink);
    for clash in &view.clashes().defaults {
        sink.report(two_defaults(view, clash));
    }
}

fn two_defaults(view: &StageView<'_>, clash: &Clash) -> Finding {
    let text = view.text(clash.contract);
    let uses = view.uses_of(clash);
    let needed = if uses.is_empty() { String::new() } else { format!("; {}", view.seekers(&uses)) };
    let message = format!("{} services are the default for {text}{needed}", clash.offers.len());
    let mut finding = Finding::new(&RULE.text, text, message);
    for offer in &clash.offers {
        let definition = view.service(offer.by);
        let role = format!("{} is a default", view.id(offer.by));
        finding = finding.at(definition.source, definition.id.span, role);
    }
    let others = clash.offers.iter().skip(1).map(|offer| view.service(offer.by));
    let changes =
        others.map(|service| Change::new(service.source, service.id.span, Action::Withdraw("default")));
    let own = view.is_own(view.service(clash.offers[0].by).source);
    let what = if own { "`default: true`" } else { "what makes it the default" };
    finding.fix(Fix::likely(format!("take {what} from all but one of them"), changes)).used_by(&uses)
}

fn two_choices(view: &StageView<'_>, sink: &mut Sink) {
    let mut first: HashMap<(Name, Option<Name>), &Choice> = HashMap::default();
    let mut findings: HashMap<(Name, Option<Name>), usize> = HashMap::default();
    let mut reports: Vec<Finding> = Vec::new();
    for choice in view.choices() {
        let question = (choice.contract.name, choice.key.map(|key| key.name));
        let earlier = *first.entry(question).or_insert(choice);
        // A stage's own choice takes the place of the one for all.
        if earlier.service.name == choice.service.name || earlier.stage != choice.stage {
            continue;
        }
        let key = question.1.map_or_else(String::new, |key| format!("#{}", view.text(key)));
        let subject = format!("{}{key}", view.text(question.0));
        let number = *findings.entry(question).or_insert_with(|| {
            let message = format!("two choices for {subject}: only one of them can count");
            let finding = Finding::new(&RULE.text, subject.clone(), message).at(
                earlier.source,
                earlier.service.span,
                "first chosen here",
            );
            reports.push(finding.advice("keep one of the choices"));
            reports.len() - 1
        });
        let place = Place::new(choice.source, choice.service.span, "chosen again here");
        reports[number].places.push(place);
    }
    for finding in reports {
        sink.report(finding);
    }
}
