//! OSGi Declarative Services: component descriptions in folders and bundles, and services that a bundle says its
//! code registers (`Provide-Capability: osgi.service`).
//!
//! Descriptions are read one by one ([`description`]). What a reference gets depends on all bundles together: of
//! several services the one with the highest ranking, of those that a target filter lets through. [`settle`] works
//! that out once all are read, and writes it down as facts that every rule understands.

pub(crate) mod description;
mod filter;
mod registering;
mod settle;

pub(crate) use settle::settle;

use super::jar::Jar;
use super::java::{self, Clause, ManifestHeader, clauses};
use super::{Archive, One, Reading, Standard, folder_above, has_ending, leads_out, parts};
use crate::manifest::{not_well_formed, unreadable};
use corvant_core::facts::{Facts, Many, Named, Service, Trouble, TroubleKind};
use corvant_core::finding::Severity;
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use corvant_core::wording::EditSort;
use description::Component;
use foldhash::HashSet;
use globset::{GlobBuilder, GlobSet, GlobSetBuilder};
use memchr::memmem;
use std::collections::{BTreeMap, BTreeSet};

/// Its name.
pub(super) const NAME: &str = "components";
/// What is read.
pub(super) const ABOUT: &str = "Component descriptions in folders and bundles";

/// Component descriptions.
pub(super) struct Components;

impl Standard for Components {
    fn name(&self) -> &'static str {
        NAME
    }

    fn claims(&self, path: &str) -> bool {
        let (folder, file) = parts(path);
        (file == "MANIFEST.MF" && parts(folder).1 == "META-INF") || has_ending(path, ".jar")
    }

    fn words(&self) -> &'static [(EditSort, &'static str)] {
        &[
            (EditSort::Default, "give {} a higher `service.ranking`"),
            (EditSort::Choice, "name {} in the `target` of the reference"),
            (EditSort::Offer, "let a component `provide` {}"),
            (EditSort::Lazy, "give {} a `cardinality` that begins with 0"),
        ]
    }

    fn read(&self, at: &Reading<'_>, path: &str, bytes: Vec<u8>) -> Vec<One> {
        match at.text(path, bytes) {
            Ok(source) => in_folder(at, source),
            Err(unread) => vec![*unread],
        }
    }

    fn read_archive(&self, at: &Reading<'_>, archive: &mut Archive<'_>) {
        let Some(mut jar) = archive.jar.take() else { return };
        if let Some((source, bundle, facts)) = jar.bundle.take() {
            in_jar(at, archive, &jar, source, bundle, facts);
        }
        archive.jar = Some(jar);
    }
}

/// The component descriptions of a bundle, and what its manifest says itself.
fn in_jar(
    at: &Reading<'_>,
    archive: &mut Archive<'_>,
    jar: &Jar,
    source: Source,
    mut bundle: Bundle,
    mut facts: Facts,
) {
    let place = archive.path;
    let listed = bundle.listed(&mut facts);
    let mut found: BTreeSet<(usize, String)> = BTreeSet::new();
    for (path, span) in listed.paths {
        match archive.zip.index_for_name(path) {
            Some(number) => _ = found.insert((number, path.to_owned())),
            None => facts.report(no_description(path, span)),
        }
    }
    if !listed.patterns.is_empty() {
        let names = (0..archive.zip.len()).filter_map(|number| Some((number, archive.name(number)?)));
        found.extend(names.filter(|(_, name)| listed.patterns.is_match(name)));
    }
    for described in jar.listed.descriptions.iter().filter(|_| bundle.name.is_some()) {
        let (number, path) = described;
        if !found.contains(described)
            && archive.bytes(*number, path).is_some_and(|bytes| is_description(&bytes))
        {
            facts.report(unlisted_description(path, &bundle));
        }
    }
    let before = archive.ones.len();
    for (number, path) in found {
        if let Some(bytes) = archive.bytes(number, &path) {
            let one = archive.fenced(&path, |inner| described(at, inner, bytes, &jar.module, place));
            archive.ones.extend(one);
        }
    }
    let providers = jar.listed.providers.iter().map(|(_, path)| parts(path).1);
    bundle.drop_described(&mut facts, &archive.ones[before..], providers);
    if !bundle.says_something(&facts) {
        return;
    }
    let header = at.header(&jar.module);
    let manifest = at.manifest(source, header, facts, NAME);
    archive.ones.push(One { manifest, extra: Some(Extra::Bundle(bundle)), blind_spots: Vec::new() });
}

/// A bundle in a folder, with the descriptions that its manifest lists.
fn in_folder(at: &Reading<'_>, source: Source) -> Vec<One> {
    let root = folder_above(&source.path, 2);
    let below = |path: &str| if root == "." { path.to_owned() } else { format!("{root}/{path}") };
    let headers = java::manifest_headers(&source.text);
    let (mut bundle, mut facts) = bundle(&headers, &root, None, at.interner);
    let module = bundle.name.as_ref().map_or(root.as_str(), |(name, _)| name).to_owned();
    let mut read = Vec::new();
    let listed = bundle.listed(&mut facts);
    let named = listed.paths.iter().map(|&(path, span)| (path.to_owned(), Some((path, span))));
    let mut paths: BTreeMap<String, Option<(&str, Span)>> = named.collect();
    for folder in &listed.folders {
        let inside = at.files.list(&below(folder)).into_iter();
        let inside = inside.map(|path| match path.strip_prefix(&format!("{root}/")) {
            Some(inside) if root != "." => inside.to_owned(),
            _ => path,
        });
        for path in inside.filter(|path| listed.patterns.is_match(path)) {
            paths.entry(path).or_insert(None);
        }
    }
    let usual = bundle.name.as_ref().map(|_| at.files.list(&below("OSGI-INF")));
    for path in usual.into_iter().flatten() {
        let inside = path.strip_prefix(&format!("{root}/")).filter(|_| root != ".").unwrap_or(&path);
        let is_candidate = is_usual_place(inside) && !paths.contains_key(inside);
        if is_candidate
            && at.files.read(&path).is_some_and(|read| read.is_ok_and(|bytes| is_description(&bytes)))
        {
            facts.report(unlisted_description(inside, &bundle));
        }
    }
    for (inside, said) in paths {
        let path = below(&inside);
        match (at.files.read(&path), said) {
            (Some(Ok(bytes)), _) => read.push(described(at, &path, bytes, &module, &root)),
            (Some(Err(why)), _) => read.push(One::plain(unreadable(path, &why, TroubleKind::Unreadable))),
            (None, Some((said, span))) => facts.report(no_description(said, span)),
            (None, None) => {}
        }
    }
    if !bundle.registered.is_empty() {
        let providers = at.files.list(&below("META-INF/services"));
        bundle.drop_described(&mut facts, &read, providers.iter().map(|path| parts(path).1));
    }
    if !bundle.says_something(&facts) {
        return read;
    }
    let header = at.header(&module);
    let manifest = at.manifest(source, header, facts, NAME);
    read.push(One { manifest, extra: Some(Extra::Bundle(bundle)), blind_spots: Vec::new() });
    read
}

/// A component description.
fn described(at: &Reading<'_>, path: &str, bytes: Vec<u8>, module: &str, bundle: &str) -> One {
    let source = match at.text(path, bytes) {
        Ok(source) => source,
        Err(unread) => return *unread,
    };
    let header = at.header(module);
    match description::read(&source, bundle, at.interner) {
        Ok((facts, components)) => One {
            manifest: at.manifest(source, header, facts, NAME),
            extra: Some(Extra::Components(components)),
            blind_spots: Vec::new(),
        },
        Err(error) => One::plain(not_well_formed(source, &error, at.interner)),
    }
}

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

/// Descriptions that a bundle may list.
const LISTED: usize = 1_000;

/// Where a bundle's descriptions are looked for.
pub(crate) struct Descriptions<'b> {
    /// Paths inside the bundle, each once.
    pub(crate) paths: Vec<(&'b str, Span)>,
    /// What others are called.
    pub(crate) patterns: GlobSet,
    /// The folders that those lie in.
    pub(crate) folders: BTreeSet<&'b str>,
}

impl Bundle {
    /// Where the descriptions are looked for. What leads out of the bundle is not, and neither is what is too much: both
    /// are reported.
    pub(crate) fn listed(&self, facts: &mut Facts) -> Descriptions<'_> {
        let mut known = HashSet::default();
        let mut listed =
            Descriptions { paths: Vec::new(), patterns: GlobSet::empty(), folders: BTreeSet::new() };
        let mut patterns = GlobSetBuilder::new();
        for (path, span) in &self.descriptions {
            if !known.insert(path.as_str()) {
                continue;
            }
            if known.len() > LISTED {
                facts.report(too_many(self.descriptions.len(), *span));
                break;
            }
            if leads_out(path) {
                facts.report(outside(path, *span));
                continue;
            }
            match path.rsplit_once('/') {
                // A star stands for letters of a file's name, and is the only sign there is (OSGi Compendium, 112.4.1).
                Some((folder, name)) if name.contains('*') => {
                    let parts: Vec<String> = path.split('*').map(globset::escape).collect();
                    let glob = GlobBuilder::new(&parts.join("*")).literal_separator(true).build();
                    if let Ok(glob) = glob {
                        patterns.add(glob);
                        listed.folders.insert(folder);
                    }
                }
                _ => listed.paths.push((path, *span)),
            }
        }
        listed.patterns = patterns.build().unwrap_or_default();
        listed
    }
}

impl Bundle {
    /// Whether there is anything in it to audit.
    fn says_something(&self, facts: &Facts) -> bool {
        let is_silent = facts.is_empty() && facts.troubles.is_empty() && self.activator.is_none();
        !is_silent || !self.descriptions.is_empty()
    }

    /// Takes away services that the bundle says it registers where a component or a provider-configuration file of it
    /// says more of them: they are the same.
    fn drop_described<'p>(
        &mut self,
        facts: &mut Facts,
        read: &[One],
        providers: impl Iterator<Item = &'p str>,
    ) {
        if self.registered.is_empty() {
            return;
        }
        let contracts: HashSet<&str> = providers.collect();
        let components = read.iter().filter_map(|one| match &one.extra {
            Some(Extra::Components(components)) => Some(components),
            _ => None,
        });
        let offered: Vec<&[String]> =
            components.flatten().map(|component| component.interfaces.as_slice()).collect();
        let is_described = |interfaces: &[String]| {
            let has_all =
                |offered: &&[String]| interfaces.iter().all(|interface| offered.contains(interface));
            offered.iter().any(has_all)
                || interfaces.iter().all(|interface| contracts.contains(interface.as_str()))
        };
        let services = std::mem::take(&mut facts.services);
        for mut registered in std::mem::take(&mut self.registered) {
            if !is_described(&registered.interfaces) {
                facts.services.push(services[registered.service]);
                registered.service = facts.services.len() - 1;
                self.registered.push(registered);
            }
        }
    }
}

/// Whether a file lies where descriptions usually do.
pub(super) fn is_usual_place(path: &str) -> bool {
    path.starts_with("OSGI-INF/") && has_ending(path, ".xml")
}

/// Whether a file is surely a component description.
fn is_description(bytes: &[u8]) -> bool {
    memmem::find(bytes, description::NAMESPACE.as_bytes()).is_some()
}

fn unlisted_description(path: &str, bundle: &Bundle) -> Trouble {
    let message = format!(
        "the bundle has the description {path}, which its manifest does not list: its components never start"
    );
    let name = bundle.name.as_ref().map_or(Span::at(0), |(_, span)| *span);
    let span = bundle.descriptions.first().map_or(name, |(_, span)| *span);
    let trouble =
        Trouble::new(TroubleKind::WrongShape, "Service-Component", message, (span, "not listed here"));
    Trouble { severity: Some(Severity::Note), ..trouble }
        .advice(format!("list {path} in `Service-Component`, or take the file out"))
}

fn too_many(count: usize, span: Span) -> Trouble {
    let message = format!("the bundle lists {count} descriptions: no more than {LISTED} are read");
    listed_wrongly(message, span).advice("list folders with a star for all that is in them")
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
    service.of_standard.installed = Some(interner.intern(&format!("{place} {}", facts.services.len())));
    let start = facts.parts.named.len();
    facts
        .parts
        .named
        .extend(interfaces.iter().map(|interface| Named { name: interner.intern(interface), span }));
    service.offers = Many::since(start, &facts.parts);
    facts.services.push(service);
    let plain = |name: &str| name.split(':').next().unwrap_or(name).to_lowercase();
    let properties = clause
        .parameters
        .iter()
        .map(|(name, value)| (plain(name), value.split(',').map(|part| part.trim().to_owned()).collect()));
    Some(Registered { service: facts.services.len() - 1, interfaces, properties: properties.collect() })
}

fn no_description(pattern: &str, span: Span) -> Trouble {
    let message =
        format!("the bundle lists the description {pattern}, which is not in it: its components never start");
    listed_wrongly(message, span).advice("put the file where it is listed, or take it off the list")
}

fn outside(pattern: &str, span: Span) -> Trouble {
    let message =
        format!("the bundle lists the description {pattern}, which lies outside of it: it is not read");
    listed_wrongly(message, span).advice("put the file into the bundle, or take it off the list")
}

fn listed_wrongly(message: String, span: Span) -> Trouble {
    Trouble::new(TroubleKind::WrongShape, "Service-Component", message, (span, "listed here"))
}
