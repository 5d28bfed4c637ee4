//! One thing, with all that is known of it.

use super::{Page, words};
use crate::out::Out;
use crate::text::Layout;
use crate::text::words::counted;
use corvant_core::answers::Kind;
use corvant_core::answers::show::{Fact, Given, Leads, Parameter, Said, Section, Sheet, Standing};
use corvant_core::answers::terms::{Aim, Gets};
use corvant_core::facts::TypeKind;
use corvant_core::source::Place;
use corvant_core::wiring::Wiring;
use std::io;

/// Writes a sheet for people.
pub fn text(sheet: &Sheet, wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page { wiring, layout, out };
    page.title(sheet.kind.word(), &sheet.name)?;
    let sections = sheet.sections();
    let column = sections.iter().map(|(section, _)| section.word().len()).max().unwrap_or(0);
    for (section, facts) in sections {
        let rows = facts.iter().map(|fact| (line(sheet, wiring, fact), fact.place.as_ref()));
        page.rows(section.word(), column, rows)?;
    }
    Ok(())
}

/// A fact on a line.
pub fn line(sheet: &Sheet, wiring: &Wiring, fact: &Fact) -> String {
    match &fact.said {
        Said::Yes if fact.section == Section::Default => "wins over others that offer the same".to_owned(),
        Said::Yes => "only its own module may need it".to_owned(),
        Said::NotSaid => "not said".to_owned(),
        Said::Supplied if sheet.kind == Kind::Tag => "collected by the host platform".to_owned(),
        Said::Supplied => "brought by the host platform".to_owned(),
        Said::Definition { module, standing, stages, except } => {
            let limit = |how: &str, stages: &[String]| match stages {
                [] => String::new(),
                stages => format!(", {how} in {}", stages.join(", ")),
            };
            let limits = limit("only", stages) + &limit("not", except);
            format!("in module {module}: {}{limits}", self::standing(wiring, standing))
        }
        Said::Declaration { module, required } => {
            format!("in module {module}{}", if *required { ", required" } else { "" })
        }
        Said::Name { name, .. } if fact.section == Section::Offered => format!("{name}, by every carrier"),
        Said::Name { name, key, from, stage } => {
            let from = from.as_ref().map_or_else(String::new, |from| format!(", from {from}"));
            let stage = stage.as_ref().map_or_else(String::new, |stage| format!(", in {stage}"));
            format!("{name}{}{from}{stage}", words::under(key.as_deref()))
        }
        Said::Sort { kind, is_abstract } => {
            let is_told =
                *is_abstract && !matches!(kind, TypeKind::Interface | TypeKind::Trait | TypeKind::Mark);
            format!("{}{}", if is_told { "abstract " } else { "" }, kind.word())
        }
        Said::Callable { name, parameters, returns } => callable(name, parameters, returns.as_deref()),
        Said::Names(names) => names.join(", "),
        Said::WorkspaceDefault(word) => format!("{word}, the workspace's default"),
        Said::MeantFor(meant) => meant.word().to_owned(),
        Said::Offer { name, key, given } => {
            let given = given.as_ref().map_or_else(String::new, |given| self::given(wiring, given));
            format!("{name}{}{given}", words::under(key.as_deref()))
        }
        Said::WholeModule(module) => format!("all services of module {module}"),
        Said::Number(number) => format!("number {number} of the roster"),
        Said::Finding { rule, severity, message, .. } => format!("{} {rule}: {message}", severity.word()),
        said => line_of_needs(wiring, said),
    }
}

/// What is said of needs, users, tags, settings and stages.
fn line_of_needs(wiring: &Wiring, said: &Said) -> String {
    match said {
        Said::Need { slot, aim, gets, manner } => need(wiring, slot, aim, gets, &words::manner(*manner)),
        Said::User { user, slot, through, manner } => {
            let slot = slot.as_ref().map_or_else(String::new, |slot| format!(", slot {slot}"));
            let through = through.as_ref().map_or_else(String::new, |through| match through {
                Aim::Contract(contract, _) => format!(", as {contract}"),
                through => format!(", as one of {}", words::aim(through)),
            });
            format!("{}{slot}{through}{}", words::called(user), after_semicolon(&words::manner(*manner)))
        }
        Said::Asker { user, slot, key, gets } => {
            let (key, gets) = (words::under(key.as_deref()), words::gets(wiring, gets));
            format!("{}, slot {slot}{key}: {gets}", words::called(user))
        }
        Said::Claim(contract) => format!("{}: may be meant, nothing says which", words::thing(contract)),
        Said::Serves { user, at } => {
            format!("{}{}", words::called(user), words::in_brackets(at.as_deref().unwrap_or_default()))
        }
        Said::MoreEntries { count, at_least } => {
            let least = if *at_least { "at least " } else { "" };
            format!("… and {least}{}", counted(*count, "more entry", "more entries"))
        }
        Said::Tag { name, attributes, collectors } => {
            let attributes: Vec<String> =
                attributes.iter().map(|(name, value)| format!("{name}: {value}")).collect();
            let collected = collectors.as_ref().map_or_else(String::new, |collectors| {
                let names: Vec<String> = collectors.iter().map(words::thing).collect();
                match names.as_slice() {
                    [] => ", which nothing here collects".to_owned(),
                    names => format!(", collected by {}", names.join(", ")),
                }
            });
            format!("{name}{}{collected}", words::in_brackets(&attributes.join(", ")))
        }
        Said::Attribute { name, kind, required, unique } => {
            let kind = kind.map_or("any kind", corvant_core::facts::Scalar::word);
            let required = if *required { ", required" } else { "" };
            format!("{name}: {kind}{required}{}", if *unique { ", unique" } else { "" })
        }
        Said::Value { text, stage } => {
            format!("{text}{}", stage.as_ref().map_or_else(String::new, |stage| format!(" in {stage}")))
        }
        Said::Differs { stage, leads, slots } => {
            let leads = leads.as_ref().map(|leads| match leads {
                Leads::Nowhere => "is not there".to_owned(),
                Leads::Service { id, at } => format!("is {id} of {}", address(wiring, at)),
            });
            let slots = slots.iter().map(|(slot, gets)| {
                let gets = gets.service.clone().unwrap_or_else(|| words::reason(wiring, &gets.reason));
                format!("{slot} gets {gets}")
            });
            format!("in {stage}: {}", leads.into_iter().chain(slots).collect::<Vec<_>>().join(", "))
        }
        Said::Gives { stage, service: Some(service) } => format!("in {stage}: gives {service}"),
        Said::Gives { stage, service: None } => format!("in {stage}: gives nothing that is settled"),
        _ => String::new(),
    }
}

fn need(wiring: &Wiring, slot: &str, aim: &Aim, gets: &Gets, manner: &str) -> String {
    let (aim, how) = (words::aim(aim), after_semicolon(manner));
    let reason = words::reason(wiring, &gets.reason);
    match &gets.service {
        Some(id) if *id == aim => format!("{slot}: {aim}{how}"),
        Some(id) => format!("{slot}: {aim} → {id}, {reason}{how}"),
        None => format!("{slot}: {aim}, {reason}{how}"),
    }
}

/// `open(yard: velmora.depot.Yard, number: int, optional): velmora.depot.Gate`
fn callable(name: &str, parameters: &[Parameter], returns: Option<&str>) -> String {
    let parameters = parameters.iter().map(|parameter| {
        let of = parameter.type_name.as_ref().map_or_else(String::new, |of| format!(": {of}"));
        let optional = if parameter.optional { " (optional)" } else { "" };
        let name = if parameter.name.is_empty() { "_" } else { &parameter.name };
        format!("{name}{of}{optional}")
    });
    let parameters: Vec<String> = parameters.collect();
    let returns = returns.map_or_else(String::new, |returns| format!(": {returns}"));
    format!("{name}({}){returns}", parameters.join(", "))
}

fn after_semicolon(manner: &str) -> String {
    if manner.is_empty() { String::new() } else { format!("; {manner}") }
}

fn standing(wiring: &Wiring, standing: &Standing) -> String {
    match standing {
        Standing::Counts => "this one counts".to_owned(),
        Standing::Template => "a template, never built".to_owned(),
        Standing::Shadowed { by } => {
            format!("does not count: {} is the one that does", address(wiring, by))
        }
        Standing::Replaced { by, at } => format!("replaced by {by} ({})", address(wiring, at)),
        Standing::Idle => "does not count".to_owned(),
        Standing::Elsewhere => "not in this stage".to_owned(),
    }
}

fn given(wiring: &Wiring, given: &Given) -> String {
    match given {
        Given::This(reason) => format!(": given to who needs it, {}", words::reason(wiring, reason)),
        Given::Other { service, reason } => {
            format!(": not given, {service} is ({})", words::reason(wiring, reason))
        }
        Given::All(others) => format!(": one of {others}, and who asks at run time gets them all"),
        Given::Unsettled(others) => format!(": one of {others}, and nothing says which is meant"),
    }
}

fn address(wiring: &Wiring, place: &Place) -> String {
    wiring.address(place.source, place.span)
}
