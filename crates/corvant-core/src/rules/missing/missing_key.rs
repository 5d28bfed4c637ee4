//! `missing-key`: a contract that is offered, but not under the key that is asked for.

use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, Sought, StageView};
use crate::word::join_words;
use crate::wording::EditSort;
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-key",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a contract that is offered, but not under the key that is asked for",
        why: "With a key only the services under that key can answer: there is nothing to hand out.",
        limits: "An optional need may go unmet. Keys of contracts that the host platform supplies are not known and \
             not checked.",
        fixes: Certainty::Certain,
        faulty: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer], key: platform }
entries:
  announce: { needs: { voice: { contract: Announcer, key: platfrom } } }
"#,
        corrected: r#"
//- announcements.wiring.yaml
corvant: 1
module: announcements
services:
  announcements.platform: { type: velmora.PlatformVoice, offers: [Announcer], key: platform }
entries:
  announce: { needs: { voice: { contract: Announcer, key: platform } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

/// How many keys a message lists.
const LISTED: usize = 8;

fn check(view: &StageView<'_>, sink: &mut Sink) {
    // What is there is worked out once for all who miss something of the same contract.
    let mut known_keys: HashMap<Name, String> = HashMap::default();
    for lack in view.certain_lacks() {
        let Sought::Key(contract, key) = lack.sought else { continue };
        let (contract_text, key_text) = (view.text(contract), view.text(key));
        let known = known_keys.entry(contract).or_insert_with(|| known(view, &view.keys_of(contract)));
        let message = format!(
            "{contract_text} is not offered under the key {key_text}, {known}; {}",
            view.seekers(&lack.uses)
        );
        let mut finding =
            Finding::new(&RULE.text, format!("{contract_text}#{key_text}"), message).used_by(&lack.uses);
        if let Some(meant) = lack.meant {
            finding = finding.fix(view.write(&offered(view, contract, meant.name), &lack.uses, key, meant));
        }
        let define = view.say(lack.uses[0].source, EditSort::Key, key_text, || {
            format!("give the service that should answer `key: {key_text}`")
        });
        sink.report(finding.advice(define));
    }
}

fn known(view: &StageView<'_>, keys: &[Name]) -> String {
    let mut texts: Vec<&str> = keys.iter().map(|&key| view.text(key)).collect();
    texts.sort_unstable();
    let more = texts.len().saturating_sub(LISTED);
    texts.truncate(LISTED);
    match (texts.len(), more) {
        (0, _) => "only without one".to_owned(),
        (_, 0) => format!("only under {}", join_words(&texts)),
        _ => format!("only under {} and {more} more", texts.join(", ")),
    }
}

fn offered(view: &StageView<'_>, contract: Name, key: Name) -> String {
    let offers = view.offers(contract, Some(key));
    let by = offers.all().next().map(|offer| offer.by);
    let by = by.map_or_else(String::new, |service| format!(", as {} does", view.whereabouts(service)));
    format!("{}{by}", view.text(key))
}
