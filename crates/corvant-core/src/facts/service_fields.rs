//! The plain fields of a service: those that hold one name, some names, or true or false. What reads them, takes them
//! over and describes them goes through this list.

use super::{Many, Named, Parts, Service};
use crate::source::Span;

/// What of a service may be filled by types: the parameters of its constructor, or nothing.
pub const WIRES: &[&str] = &["constructor", "none"];

/// A plain field of a service.
#[derive(Clone, Copy, Debug)]
pub struct ServiceField {
    /// What it is called in manifests and in custom readers.
    pub name: &'static str,
    /// What it says, for editors to show.
    pub about: &'static str,
    /// Whether a definition that does not say it takes it over from its model.
    pub is_inherited: bool,
    /// Where it is kept.
    pub of: FieldOf,
}

/// Where a field of a service is kept, and so what it takes.
#[derive(Clone, Copy, Debug)]
pub enum FieldOf {
    /// One name.
    Name(fn(&mut Service) -> &mut Option<Named>),
    /// Some names.
    Names(fn(&mut Service) -> &mut Many<Named>),
    /// One of some words.
    Word(&'static [&'static str], fn(&mut Service) -> &mut Option<Named>),
    /// True or false.
    Flag(fn(&mut Service) -> &mut bool),
}

impl ServiceField {
    /// All of them.
    pub const ALL: [Self; 14] = [
        own("type", "The type it is built from", FieldOf::Name(|service| &mut service.type_name)).inherited(),
        own("offers", "The contracts it offers", FieldOf::Names(|service| &mut service.offers)).inherited(),
        own("key", "The key it offers them under", FieldOf::Name(|service| &mut service.key)).inherited(),
        own(
            "default",
            "Whether it wins over other candidates of its contracts",
            FieldOf::Flag(|service| &mut service.is_default),
        ),
        own("lifetime", "How long an instance lives", FieldOf::Name(|service| &mut service.lifetime))
            .inherited(),
        own(
            "wire",
            "What is filled by type where no need does: the parameters of its constructor, or none",
            FieldOf::Word(WIRES, |service| &mut service.wire),
        )
        .inherited(),
        own(
            "internal",
            "Whether only its own module may need it",
            FieldOf::Flag(|service| &mut service.internal),
        ),
        own(
            "stages",
            "The stages it is limited to; absent: every stage",
            FieldOf::Names(|service| &mut service.stages),
        ),
        own("except", "The stages it is not in", FieldOf::Names(|service| &mut service.except)),
        own(
            "template",
            "Whether it is never built, only inherited",
            FieldOf::Flag(|service| &mut service.template),
        ),
        own(
            "like",
            "The definition whose words it takes over where it has none of its own",
            FieldOf::Name(|service| &mut service.like),
        ),
        own(
            "alias-of",
            "The service that this is another name for",
            FieldOf::Name(|service| &mut service.alias_of),
        ),
        own(
            "wraps",
            "The service in whose place it stands, with the old one inside",
            FieldOf::Name(|service| &mut service.wraps),
        ),
        own(
            "replaces",
            "The service whose definition it overrides",
            FieldOf::Name(|service| &mut service.replaces),
        ),
    ];

    const fn inherited(self) -> Self {
        Self { is_inherited: true, ..self }
    }

    /// Has a service take over from its model what it does not say itself. Where that is written in another file, it counts
    /// as written at `at`, where the service says that it takes over.
    pub(crate) fn inherit(
        self,
        service: &mut Service,
        mut model: Service,
        parts: &mut Parts,
        at: Option<Span>,
    ) {
        match self.of {
            FieldOf::Name(field) | FieldOf::Word(_, field) => {
                let model = *field(&mut model);
                let model = model.map(|named| Named { span: at.unwrap_or(named.span), ..named });
                let own = field(service);
                *own = own.or(model);
            }
            FieldOf::Names(field) => {
                let model = *field(&mut model);
                let own = field(service);
                if own.is_empty() && !model.is_empty() {
                    *own = at.map_or(model, |at| moved(model, parts, at));
                }
            }
            FieldOf::Flag(field) => *field(service) |= *field(&mut model),
        }
    }
}

/// The same names, written elsewhere.
fn moved(names: Many<Named>, parts: &mut Parts, at: Span) -> Many<Named> {
    let start = parts.named.len();
    parts.named.extend_from_within(names.range());
    for named in &mut parts.named[start..] {
        named.span = at;
    }
    Many::since(start, parts)
}

const fn own(name: &'static str, about: &'static str, of: FieldOf) -> ServiceField {
    ServiceField { name, about, is_inherited: false, of }
}
