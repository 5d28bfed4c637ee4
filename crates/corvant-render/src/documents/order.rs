//! In which order things are registered and built, version 1.

use super::terms::Aim;
use super::{Each, PROGRAM, Place, Version};
use crate::out::Out;
use corvant_core::answers::order::{Built, Order, Registration};
use corvant_core::wiring::Wiring;
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes an order for programs.
pub fn write(order: &Order, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let document = OrderDocument {
        corvant: PROGRAM,
        order: Version,
        entry: order.entry.as_deref(),
        roster: order.has_roster,
        registering: Each::new(&order.providers, |provider| RegistrationDocument {
            provider: &provider.provider,
            registers: &provider.registers,
            whole_module: provider.is_whole_module,
            place: provider.place.as_ref().map(|place| Place::new(wiring, place)),
        }),
        building: Each::new(&order.building, |step| BuiltDocument::new(wiring, step)),
        later: Each::new(&order.later, |step| BuiltDocument::new(wiring, step)),
    };
    super::write(&document, out)
}

/// What is registered, then what is built, each in its order.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "order", deny_unknown_fields)]
pub struct OrderDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    order: Version<1>,
    /// The entry that it is for; null: all that can be built.
    entry: Option<&'a str>,
    /// Whether a roster says the order of providers; else it is that of the files.
    roster: bool,
    registering: Each<'a, Registration, RegistrationDocument<'a>>,
    /// What is needed first, ties by name.
    building: Each<'a, Built, BuiltDocument<'a>>,
    /// What is built for lazy needs only, and for those that are met after building.
    later: Each<'a, Built, BuiltDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "registration", deny_unknown_fields)]
struct RegistrationDocument<'a> {
    provider: &'a str,
    registers: &'a [String],
    /// Whether it registers all services of its module, having no list.
    whole_module: bool,
    #[serde(flatten)]
    place: Option<Place<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "step", deny_unknown_fields)]
struct BuiltDocument<'a> {
    /// One; or several that need one another, so that none of them can be first.
    services: &'a [String],
    cycle_group: bool,
    /// What they need for building and do not get.
    lacks: Vec<Aim<'a>>,
    /// The longest way down to something that needs nothing.
    depth: usize,
    #[serde(flatten)]
    place: Option<Place<'a>>,
}

impl<'a> BuiltDocument<'a> {
    fn new(wiring: &'a Wiring, step: &'a Built) -> Self {
        Self {
            services: &step.services,
            cycle_group: step.services.len() > 1,
            lacks: step.lacks.iter().map(Into::into).collect(),
            depth: step.depth,
            place: step.place.as_ref().map(|place| Place::new(wiring, place)),
        }
    }
}
