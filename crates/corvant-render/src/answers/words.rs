//! Words for what answers are made of.

use crate::text::words::counted;
use corvant_core::answers::terms::{Aim, Gets, Link, NeedManner, Reason, Thing, ThingKind};
use corvant_core::facts::Via;
use corvant_core::wiring::Wiring;

/// What a thing is called: `all that carry rule`.
pub fn thing(thing: &Thing) -> String {
    let name = &thing.name;
    match (thing.kind, &thing.key) {
        (ThingKind::Carriers, _) => format!("all that carry {name}"),
        (ThingKind::Offerers, _) => format!("all that offer {name}"),
        (ThingKind::Claimed, Some(key)) => format!("{name} under {key}"),
        _ => name.clone(),
    }
}

/// What kind of thing it is, in a word.
pub fn kind(thing: &Thing) -> &'static str {
    match thing.kind {
        ThingKind::Service => "service",
        ThingKind::Entry => "entry",
        ThingKind::Provider => "provider",
        ThingKind::Carriers => "tag",
        ThingKind::Offerers | ThingKind::Claimed => "contract",
    }
}

/// Kind and name: `entry departures`.
pub fn called(thing: &Thing) -> String {
    format!("{} {}", kind(thing), self::thing(thing))
}

/// What a need is aimed at: `contract Clock under night`.
pub fn aim(aim: &Aim) -> String {
    match aim {
        Aim::Service(id) => id.clone(),
        Aim::Contract(contract, key) => format!("contract {contract}{}", under(key.as_deref())),
        Aim::All(contract) => format!("all that offer {contract}"),
        Aim::Tag(tag) => format!("all that carry {tag}"),
        Aim::Setting(setting) => format!("setting {setting}"),
        Aim::Wrapped => "what it wraps".to_owned(),
    }
}

/// ` under KEY`, if there is a key.
pub fn under(key: Option<&str>) -> String {
    key.map_or_else(String::new, |key| format!(" under {key}"))
}

/// How a need is met beside the plain way: `lazy, optional, set after building`; empty for the plain way.
pub fn manner(manner: NeedManner) -> String {
    let via = match manner.via {
        Via::Constructor => None,
        Via::Setter => Some("set after building"),
        Via::Property => Some("assigned after building"),
        Via::Factory => Some("by its factory"),
        Via::LookUp => Some("looked up at run time"),
    };
    let (lazy, optional) = (manner.lazy.then_some("lazy"), manner.optional.then_some("optional"));
    [lazy, optional, via].into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// Something in brackets, or nothing.
pub fn in_brackets(text: &str) -> String {
    if text.is_empty() { String::new() } else { format!(" ({text})") }
}

/// Why a need gets what it gets, or gets nothing.
pub fn reason(wiring: &Wiring, reason: &Reason) -> String {
    match reason {
        Reason::Id => "by its id".to_owned(),
        Reason::Alias(alias) => format!("{alias} is an alias"),
        Reason::Wraps(wrapped) => format!("it wraps {wrapped}"),
        Reason::Replaces(replaced) => format!("it replaces {replaced}"),
        Reason::Wrapped => "it is what it wraps".to_owned(),
        Reason::Chosen(place) => format!("chosen in {}", wiring.address(place.source, place.span)),
        Reason::Key(key) => format!("the one that offers it under {key}"),
        Reason::Only => "the only one that offers it".to_owned(),
        Reason::Default(count) => format!("the default of {count} that offer it"),
        Reason::First(count) => format!("the first of {count} that offer it"),
        Reason::Last(count) => format!("the last of {count} that offer it"),
        Reason::Carried(count) => counted(*count, "carries it", "carry it"),
        Reason::Offered(count) => counted(*count, "offers it", "offer it"),
        Reason::Value => "it has a value".to_owned(),
        Reason::Supplied => "the host platform brings it".to_owned(),
        Reason::Assumed => "nothing is known to bring it, and what was not read may".to_owned(),
        Reason::Absent => "not found; it is optional".to_owned(),
        Reason::Missing => "not found".to_owned(),
        Reason::MissingKey => "it is offered, but not under this key".to_owned(),
        Reason::Ambiguous(count) => format!("{count} offer it, and nothing says which is meant"),
        Reason::Unknown => "it depends on the stage, or on another finding".to_owned(),
    }
}

/// What a need gets, and why: `gets clock.quartz, the only one that offers it`.
pub fn gets(wiring: &Wiring, gets: &Gets) -> String {
    let reason = reason(wiring, &gets.reason);
    gets.service.as_ref().map_or_else(|| reason.clone(), |service| format!("gets {service}, {reason}"))
}

/// How an edge comes to be.
pub fn link(wiring: &Wiring, link: &Link) -> String {
    let (slot, aimed, why, how) = match link {
        Link::Need { slot, aim, reason, manner } => (slot, aim, reason, in_brackets(&self::manner(*manner))),
        Link::Carries => return "it carries the tag".to_owned(),
        Link::Offers => return "it offers the contract".to_owned(),
        Link::MayBeMeant => return "it may be meant: nothing says which".to_owned(),
        Link::Collects => return "its declaration says who collects it".to_owned(),
        Link::Wraps => return "it is what it wraps".to_owned(),
    };
    match aimed {
        Aim::Service(id) if *why == Reason::Id => format!("{slot}: {id}{how}"),
        Aim::Tag(_) | Aim::All(_) => format!("{slot}{how}"),
        _ => format!("{slot}: {}{how}, {}", aim(aimed), reason(wiring, why)),
    }
}
