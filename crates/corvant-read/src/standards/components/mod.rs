//! OSGi Declarative Services: component descriptions in folders and bundles, and services that a bundle says its
//! code registers (`Provide-Capability: osgi.service`).
//!
//! Descriptions are read one by one ([`description`]). What a reference gets depends on all bundles together: of
//! several services the one with the highest ranking, of those that a target filter lets through. [`settle`] works
//! that out once all are read, and writes it down as facts that every rule understands.

pub(crate) mod description;
mod filter;
mod settle;

pub(crate) use settle::settle;

use super::java::{Clause, ManifestHeader, clauses};
use corvant_core::facts::{Facts, Many, Named, Service};
use corvant_core::name::Interner;
use corvant_core::source::Span;
use description::Component;
use foldhash::HashSet;

/// What a bundle's manifest says of its services.
#[derive(Debug, Default)]
pub(crate) struct Bundle {
    /// Its symbolic name.
    pub(crate) name: Option<(String, Span)>,
    /// Paths and patterns of its component descriptions.
    pub(crate) descriptions: Vec<(String, Span)>,
    /// Where it names the code that runs when it starts.
    pub(crate) activator: Option<Span>,
    /// The packages that its code sees; `None`: any.
    pub(crate) packages: Option<HashSet<String>>,
    /// Services that its code registers, by their numbers among the services of the manifest.
    pub(crate) registered: Vec<Registered>,
}

/// A service that a bundle says its code registers.
#[derive(Debug)]
pub(crate) struct Registered {
    pub(crate) service: usize,
    pub(crate) interfaces: Vec<String>,
    pub(crate) properties: Vec<(String, Vec<String>)>,
}

/// What the reader of one file hands on to [`settle`].
#[derive(Debug)]
pub(crate) enum Extra {
    /// The components of a description.
    Components(Vec<Component>),
    /// A bundle's manifest.
    Bundle(Bundle),
}

/// What a jar's manifest says, if it is a bundle's; and the facts in it. `packages` are those of the classes in it.
pub(crate) fn bundle(
    headers: &[ManifestHeader],
    place: &str,
    packages: Option<HashSet<String>>,
    interner: &Interner,
) -> (Bundle, Facts) {
    let mut bundle = Bundle { packages, ..Bundle::default() };
    let mut facts = Facts::default();
    for header in headers {
        let clauses = || clauses(&header.value);
        match header.name.to_ascii_lowercase().as_str() {
            "bundle-symbolicname" => {
                let name = clauses().into_iter().next().and_then(|clause| clause.paths.into_iter().next());
                bundle.name = name.map(|name| (name, header.span));
            }
            "service-component" => {
                let paths = clauses().into_iter().flat_map(|clause| clause.paths);
                let paths = paths.map(|path| (path.trim_start_matches('/').to_owned(), header.span));
                bundle.descriptions.extend(paths);
            }
            "bundle-activator" => bundle.activator = Some(header.span),
            "require-bundle" | "dynamicimport-package" => bundle.packages = None,
            "provide-capability" => {
                for clause in clauses().iter().filter(|clause| clause.paths == ["osgi.service"]) {
                    bundle.registered.extend(registered(clause, header.span, place, interner, &mut facts));
                }
            }
            _ => {}
        }
    }
    for header in headers.iter().filter(|header| header.name.eq_ignore_ascii_case("import-package")) {
        if let Some(packages) = &mut bundle.packages {
            packages.extend(clauses(&header.value).into_iter().flat_map(|clause| clause.paths));
        }
    }
    (bundle, facts)
}

fn registered(
    clause: &Clause,
    span: Span,
    place: &str,
    interner: &Interner,
    facts: &mut Facts,
) -> Option<Registered> {
    let interfaces: Vec<String> =
        clause.parameter("objectClass")?.split(',').map(|interface| interface.trim().to_owned()).collect();
    let id = Named { name: interner.intern(&format!("{place}:{}", interfaces.join("+"))), span };
    let mut service = Service::new(id);
    service.installed = Some(interner.intern(&format!("{place} {}", facts.services.len())));
    let start = facts.named.len();
    facts.named.extend(interfaces.iter().map(|interface| Named { name: interner.intern(interface), span }));
    service.offers = Many::since(start, &facts.named);
    facts.services.push(service);
    let plain = |name: &str| name.split(':').next().unwrap_or(name).to_lowercase();
    let properties = clause
        .parameters
        .iter()
        .map(|(name, value)| (plain(name), value.split(',').map(|part| part.trim().to_owned()).collect()));
    Some(Registered { service: facts.services.len() - 1, interfaces, properties: properties.collect() })
}
