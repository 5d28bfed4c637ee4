//! Services and the types that they are built from, where code declares those.

use super::whole::WorkspaceView;
use crate::facts::{DeclaredType, Service, Via};
use crate::wiring::ServiceIndex;

/// A service whose type is declared.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Typed<'a> {
    pub(crate) index: ServiceIndex,
    pub(crate) service: &'a Service,
    /// The number of the type's first declaration.
    pub(crate) number: usize,
    pub(crate) declared: &'a DeclaredType,
}

impl Typed<'_> {
    /// Whether something else builds it.
    pub(crate) fn is_made(&self, view: &WorkspaceView<'_>) -> bool {
        self.service.needs.of(view.parts()).iter().any(|need| need.via == Via::Factory)
    }
}

/// All services that are built and whose types are declared.
pub(crate) fn typed_services<'a>(view: &WorkspaceView<'a>) -> Vec<Typed<'a>> {
    let wiring = view.wiring();
    let types = wiring.types();
    if types.is_empty() {
        return Vec::new();
    }
    let typed =
        wiring.services().filter(|(_, service)| service.may_be_built()).filter_map(|(index, service)| {
            let number = types.find(wiring.text(service.type_name?.name))?;
            Some(Typed { index, service, number, declared: &wiring.facts.declared_types[number] })
        });
    typed.collect()
}
