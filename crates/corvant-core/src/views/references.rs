//! The ids that definitions name beside their needs, and whether they are there.

use crate::facts::{Named, Service, SuppliedKind};
use crate::name::Name;
use crate::resolve::{Lead, Resolution, Standing};
use crate::wiring::Wiring;

/// What is done to the id of a model.
pub(crate) const TAKEN_AS_MODEL: &str = "taken as model";

/// The ids that a definition names and that are not there, each with what it does to them. What is aliased or
/// wrapped must be handed out; what is replaced must be defined in the stage, and a model anywhere: it is text to
/// take over.
pub(crate) fn missing_references(
    wiring: &Wiring,
    resolution: &Resolution,
    service: &Service,
) -> Vec<(Named, &'static str)> {
    let is_supplied = |id: Name| resolution.is_supplied(SuppliedKind::Service, id);
    // What is behind another alias is that alias's doing.
    let is_gone = |id: Name| matches!(resolution.ids.lead(wiring, id), Lead::Undefined | Lead::Template(_));
    // What overrides others of its own id is there itself.
    let replaces = service.replaces.filter(|_| !service.overrides_itself());
    let missing = [
        (service.alias_of.filter(|id| is_gone(id.name)), "aliased"),
        (service.wraps.filter(|id| is_gone(id.name)), "wrapped"),
        (replaces.filter(|id| !is_defined_beside(wiring, resolution, id.name)), "replaced"),
        (service.like.filter(|id| !wiring.is_defined_anywhere(id.name)), TAKEN_AS_MODEL),
    ];
    let missing = missing.into_iter().filter_map(|(id, verb)| Some((id?, verb)));
    missing.filter(|(id, _)| !is_supplied(id.name)).collect()
}

/// Whether an id has a definition of its own in a stage, whatever stands for it there.
fn is_defined_beside(wiring: &Wiring, resolution: &Resolution, id: Name) -> bool {
    wiring.definitions(id).any(|index| resolution.ids.standing(index) != Standing::Elsewhere)
}
