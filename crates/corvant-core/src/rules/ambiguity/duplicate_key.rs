//! `duplicate-key`: two services under one key of one contract.

use crate::audit::{Context, Sink};
use crate::facts::Contract;
use crate::finding::{Finding, Severity};
use crate::name::Name;
use crate::rules::{Family, Rule, Scope};
use crate::wiring::ServiceIndex;
use foldhash::{HashMap, HashSet};

/// The rule.
pub static RULE: Rule = Rule {
    name: "duplicate-key",
    family: Family::Ambiguity,
    severity: Severity::Error,
    summary: "two services under one key of one contract",
    why: "Which of them is handed out under the key is a matter of luck, or the application refuses to \
          start.",
    limits: "A choice for the key, or one candidate marked as default, settles it. Definitions that never meet \
             in one stage do not clash, nor do those that are installed into different places. Entry points of \
             distributions clash in the groups console_scripts and gui_scripts alone: there each name becomes \
             one file, and who is installed last overwrites it. In every other group the specification leaves \
             equal names of different distributions to whoever reads the group, and a group may be read whole: of \
             471 names in 356 installed distributions, the only one given by several was meant to be.",
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
    mended: r#"
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
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let facts = &context.wiring.facts;
    let choices = context.wiring.choices(context.resolution.stage);
    let chosen: HashSet<(Name, Name)> =
        choices.filter_map(|choice| Some((choice.contract.name, choice.key?.name))).collect();
    // What is meant for all is handed out whole, whatever the keys.
    let is_whole =
        |contract: &&Contract| contract.meant_for.is_some_and(|meant| context.text(meant.name) == "all");
    let whole: HashSet<Name> =
        facts.contracts.iter().filter(is_whole).map(|contract| contract.contract.name).collect();
    let mut under: HashMap<(Name, Name, Option<Name>), usize> = HashMap::default();
    let mut groups: Vec<(Name, Name, Vec<ServiceIndex>)> = Vec::new();
    for (index, service) in context.services().filter(|&(index, _)| context.resolution.ids.is_built(index)) {
        let Some(key) = service.key else { continue };
        let stand_in = context.resolution.ids.stand_in(index);
        for offer in service.offers.of(&facts.named).iter().filter(|offer| !whole.contains(&offer.name)) {
            let number = *under.entry((offer.name, key.name, service.installed)).or_insert_with(|| {
                groups.push((offer.name, key.name, Vec::new()));
                groups.len() - 1
            });
            if !groups[number].2.contains(&stand_in) || groups[number].2.len() > CLASH {
                groups[number].2.push(stand_in);
            }
        }
    }
    for (contract, key, services) in groups {
        let defaults = services.iter().filter(|&&service| context.wiring.service(service).is_default).count();
        if services.len() > 1 && defaults != 1 && !chosen.contains(&(contract, key)) {
            sink.report(finding(context, contract, key, &services));
        }
    }
}

/// Past so many services under one key, another of the same is not looked for any more.
const CLASH: usize = 64;

fn finding(context: &Context<'_>, contract: Name, key: Name, services: &[ServiceIndex]) -> Finding {
    let (contract_text, key_text) = (context.text(contract), context.text(key));
    let question = context.resolution.question((contract, Some(key)));
    let lack = question.and_then(|question| context.lacks.question(question));
    let needed = lack.map_or_else(String::new, |lack| format!("; {}", context.seekers(&lack.uses)));
    let message =
        format!("{} services offer {contract_text} under the key {key_text}{needed}", services.len());
    let mut finding = Finding::new(&RULE, format!("{contract_text}#{key_text}"), message);
    for &service in services {
        let definition = context.wiring.service(service);
        let span = definition.key.map_or(definition.id.span, |key| key.span);
        let source = definition.source;
        finding = finding.at(source, span, format!("offered by {}", context.wiring.id(service)));
    }
    let first = context.wiring.id(services[0]);
    finding = if context.wiring.service(services[0]).installed.is_some() {
        finding.help("take one of them out, or give it another name")
    } else {
        finding.help("give one of them another key").help(format!(
            "or record a choice: `choices: {{ {contract_text}: {{ keys: {{ {key_text}: {first} }} }} }}`"
        ))
    };
    match lack {
        Some(lack) => finding.used_by(&lack.uses),
        None => finding,
    }
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn choices_defaults_wrappers_and_stages_settle() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
choices: { Chosen: { keys: { k: a.one } } }
services:
  a.one: { offers: [Chosen, Clash], key: k }
                                         ^ duplicate-key Clash#k
  a.two: { offers: [Chosen, Clash], key: k }
  b.one: { offers: [Defaulted], key: k, default: true }
  b.two: { offers: [Defaulted], key: k }
  c.one: { offers: [Wrapped], key: k }
  c.two: { offers: [Wrapped], key: k, wraps: c.one, needs: { inner: { wrapped: true } } }
  d.one: { offers: [Staged], key: k, stages: [drill] }
  d.two: { offers: [Staged], key: k, stages: [live] }
entries:
  e:
    needs:
      a: { contract: Chosen, key: k }
      b: { contract: Clash, key: k }
      c: { contract: Defaulted, key: k }
      d: { contract: Wrapped, key: k }
      e: { contract: Staged, key: k, optional: true }
      f: { service: b.two }
      g: { service: a.two }
"#,
        );
    }
}
