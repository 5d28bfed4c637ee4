//! `missing-type`: a type that is in none of the jars and distributions that were read, or that code does not declare.

use crate::facts::{ListedType, Named, OfStandard, Service, TypeReach};
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::{Graph, Node};
use crate::index::{EntryIndex, ProviderIndex};
use crate::name::Name;
use crate::near::{Likeness, Meant, meanings};
use crate::rules::Rule;
use crate::source::{Place, Span};
use crate::views::{Check, Installations, Sink, Types, WorkspaceView, with_dots, written_as};
use crate::wiring::{ModuleIndex, ServiceIndex};
use crate::word::{join_words, some_of};
use foldhash::{HashMap, HashSet, HashSetExt};
use std::cell::OnceCell;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-type",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a type that is in no jar, distribution or code that was read",
        why: "What first asks for the service, or for all that offer its contract, gets an error about a type \
          that cannot be loaded.",
        limits: "Types are listed for jars (classes), for installed distributions and wheels (modules), and for code that \
             `[[types]]` of the workspace file names; of what is defined in files the type is looked for if its package or namespace has \
             types in that code, and none of its files is in doubt: code that is made while building has to be among it. A class that only another jar has is a note, and so is a module that a distribution may \
             bring which a wheel requires and which was not read. Types of the language's own platform are not looked \
             for where no jar has their package, nor are entry points that depend on an extra or belong to a \
             distribution that is installed as a link to its sources. Whether an attribute of a module exists is not seen.",
        fixes: Certainty::Certain,
        faulty: r#"
//- site-packages/velmora_voice-1.0.dist-info/entry_points.txt
[velmora.announcers]
cabin = velmora_voice.cabins:Cabin
//- site-packages/velmora_voice-1.0.dist-info/RECORD
velmora_voice/__init__.py,,
velmora_voice/cabin.py,,
"#,
        corrected: r#"
//- site-packages/velmora_voice-1.0.dist-info/entry_points.txt
[velmora.announcers]
cabin = velmora_voice.cabin:Cabin
//- site-packages/velmora_voice-1.0.dist-info/RECORD
velmora_voice/__init__.py,,
velmora_voice/cabin.py,,
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

/// What is known of a type that is not where it is looked for.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Standing {
    /// It lies in other places than what names it.
    Elsewhere,
    /// Something that is required and absent may bring it.
    MayBeBrought,
    /// Nothing has it.
    Missing,
}

/// A type that is not where it is looked for, and the services that name it.
struct Missed {
    name: Name,
    standing: Standing,
    services: Vec<ServiceIndex>,
}

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    installed(view, sink);
    declared(view, sink);
}

/// A type that the code of its scope does not declare, and who names it.
struct Undeclared<'a> {
    text: &'a str,
    dotted: String,
    /// The number of its declaration, where it is declared in another file than it is looked for in.
    declared: Option<usize>,
    places: Vec<Place>,
    nodes: Vec<Node>,
}

/// Types that code should declare: of all that is defined, but for what is installed.
fn declared(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let types = view.wiring().types();
    if types.is_empty() {
        return;
    }
    let undeclared = undeclared(view, types);
    if undeclared.is_empty() {
        return;
    }
    let known = types.names();
    let wanted: Vec<&str> = undeclared.iter().map(|undeclared| undeclared.dotted.as_str()).collect();
    for (undeclared, meant) in undeclared.iter().zip(meanings(&wanted, &known)) {
        let origins = undeclared.nodes.iter().map(|&node| Origin { node, while_building: true });
        if let Some(number) = undeclared.declared {
            sink.report(misplaced(view, undeclared, number).failing(origins));
            continue;
        }
        let scope = types.lacks(&undeclared.dotted).unwrap_or_default();
        let message = format!("{} is not declared: the code of {scope} has no such type", undeclared.text);
        let mut finding = Finding::new(&RULE.text, undeclared.text, message);
        finding.places.clone_from(&undeclared.places);
        let near = meant.map(|meant| (known[meant.known], meant.likeness));
        let namesake = || Some((types.namesake(&undeclared.dotted)?, Likeness::EndsAlike));
        if let Some((name, likeness)) = near.or_else(namesake) {
            let place = types.get(name).map_or_else(String::new, |number| {
                let declared = &view.wiring().facts.declared_types[number];
                format!(" ({})", view.address(declared.source, declared.name.span))
            });
            let to = written_as(name, undeclared.text);
            let places = undeclared.places.iter().map(|place| (place.source, place.span));
            let title = format!("write {to}{place}");
            finding = finding.fix(Fix::rename(title, places, undeclared.text, &to, likeness));
        }
        sink.report(finding.advice("declare it, or name the type that is meant").failing(origins));
    }
}

/// A type that is declared, and is looked for in another file.
fn misplaced(view: &WorkspaceView<'_>, undeclared: &Undeclared<'_>, number: usize) -> Finding {
    let declared = &view.wiring().facts.declared_types[number];
    let (text, path) = (undeclared.text, view.wiring().path(declared.source));
    let wanted = declared.belongs_to.map_or("", |path| view.text(path));
    let but = if path.eq_ignore_ascii_case(wanted) { ", which differs in the case of letters" } else { "" };
    let message = format!("{text} is looked for in {wanted} and lies in {path}{but}: it cannot be loaded");
    let mut finding = Finding::new(&RULE.text, text, message);
    finding.places.clone_from(&undeclared.places);
    let finding = finding.at(declared.source, declared.name.span, "declared here");
    finding.advice(format!("move the file to {wanted}, or name the type as its folder has it"))
}

fn undeclared<'a>(view: &WorkspaceView<'a>, types: Types<'a>) -> Vec<Undeclared<'a>> {
    let (wiring, graph) = (view.wiring(), view.graph());
    let facts = &wiring.facts;
    let own = wiring.services().filter(|(_, service)| service.of_standard.installed.is_none());
    // What is taken over is written elsewhere: the place that takes it over does not name the type.
    let is_here = |service: &Service, named: Named| !service.takes_over_at(named.span);
    let services = own.map(|(index, service)| {
        let is_here = service.type_name.is_some_and(|named| is_here(service, named));
        (service.source, service.type_name, is_here, Graph::service(index))
    });
    let entries = facts.entries.iter().enumerate();
    let entries =
        entries.map(|(at, entry)| (entry.source, entry.type_name, true, graph.entry(EntryIndex::new(at))));
    let providers = facts.providers.iter().enumerate();
    let providers = providers.map(|(at, provider)| {
        (provider.source, provider.type_name, true, graph.provider(ProviderIndex::new(at)))
    });
    let listed: HashSet<Name> = facts.types.iter().map(|listed| listed.name).collect();
    let mut numbers: HashMap<Name, Option<usize>> = HashMap::default();
    let mut all: Vec<Undeclared<'_>> = Vec::new();
    let mut seen = HashSet::new();
    for (source, type_name, is_here, node) in services.chain(entries).chain(providers) {
        let Some(named) = type_name else { continue };
        let number = *numbers.entry(named.name).or_insert_with(|| {
            let (text, dotted) = (wiring.text(named.name), with_dots(wiring.text(named.name)));
            let is_hidden = view.doubts().mentions(named.name).is_some() || listed.contains(&named.name);
            let declared = types.get(&dotted).filter(|&of| facts.declared_types[of].belongs_to.is_some());
            types.lacks(&dotted).filter(|_| !is_hidden).map(|_| ()).or(declared.map(|_| ()))?;
            all.push(Undeclared { text, dotted, declared, places: Vec::new(), nodes: Vec::new() });
            Some(all.len() - 1)
        });
        let Some(number) = number else { continue };
        all[number].nodes.push(node);
        // What several take over from one model is written once.
        if is_here && seen.insert((named.name, source, named.span)) {
            all[number].places.push(Place::new(source, named.span, "named here"));
        }
    }
    all
}

fn installed(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    let is_checked = |service: &Service| service.of_standard.type_place.is_some();
    if !wiring.services().any(|(_, service)| is_checked(service)) {
        return;
    }
    let finder = Finder::new(view);
    let missed = finder.missed();
    if missed.is_empty() {
        return;
    }
    let listings = finder.installations.listings(&missed.iter().map(|missed| missed.name).collect());
    let known: Vec<&str> = distinct(&wiring.facts.types).map(|known| view.text(known)).collect();
    let lost = || missed.iter().filter(|missed| missed.standing == Standing::Missing);
    let wanted: Vec<&str> = lost().map(|missed| view.text(missed.name)).collect();
    for (missed, meant) in lost().zip(meanings(&wanted, &known)) {
        let meant = meant.map(|meant| (known[meant.known], meant));
        sink.report(missing(view, missed, meant));
    }
    for missed in &missed {
        match missed.standing {
            Standing::Missing => {}
            Standing::MayBeBrought => sink.report(may_be_brought(view, missed, &finder.absent)),
            Standing::Elsewhere => sink.report(elsewhere(view, missed, &listings[&missed.name])),
        }
    }
}

/// What is looked up to find a type.
struct Finder<'a> {
    view: &'a WorkspaceView<'a>,
    installations: Installations<'a>,
    absent: Absent<'a>,
    /// All types that any place lists.
    types: HashSet<Name>,
    /// Their packages, once they are asked for.
    packages: OnceCell<HashSet<&'a str>>,
}

impl<'a> Finder<'a> {
    fn new(view: &'a WorkspaceView<'a>) -> Self {
        let facts = &view.wiring().facts;
        let installations = Installations::new(view.wiring());
        let absent = Absent::new(view, &installations);
        let types = facts.types.iter().map(|listed| listed.name).collect();
        Self { view, installations, absent, types, packages: OnceCell::new() }
    }

    /// Whether any place lists a type of a package.
    fn has_package(&self, package: &str) -> bool {
        let all = || {
            let types = self.view.wiring().facts.types.iter();
            types.filter_map(|listed| self::package(self.view.text(listed.name))).collect()
        };
        self.packages.get_or_init(all).contains(package)
    }

    /// The types that are not where they are looked for, with the worst that holds of them.
    fn missed(&self) -> Vec<Missed> {
        let mut all: Vec<Missed> = Vec::new();
        let mut numbers: HashMap<Name, usize> = HashMap::default();
        for (index, service) in self.view.wiring().services() {
            let Some(name) = service.type_name.map(|known| known.name) else { continue };
            let Some(standing) = self.standing(service, name) else { continue };
            if self.view.doubts().mentions(name).is_some() {
                continue;
            }
            let number = *numbers.entry(name).or_insert_with(|| {
                all.push(Missed { name, standing, services: Vec::new() });
                all.len() - 1
            });
            all[number].standing = all[number].standing.max(standing);
            all[number].services.push(index);
        }
        all
    }

    /// What is known of a type that a service names; `None`: it is there, or nobody can know.
    fn standing(&self, service: &Service, name: Name) -> Option<Standing> {
        let OfStandard { type_place, type_reach, .. } = service.of_standard;
        let (place, text) = (type_place?, self.view.text(name));
        if self.installations.lists(place, name) {
            return None;
        }
        let is_elsewhere = self.types.contains(&name);
        match type_reach {
            TypeReach::AnyPlace | TypeReach::PlatformToo if is_elsewhere => Some(Standing::Elsewhere),
            TypeReach::PlatformToo if package(text).is_none_or(|package| !self.has_package(package)) => None,
            TypeReach::AnyPlace | TypeReach::PlatformToo => Some(Standing::Missing),
            TypeReach::Place => {
                let is_from_here = self.installations.lists_any_beside(place, text);
                match self.absent.of(self.view.wiring().module_of(service.source)) {
                    // What is missing is a finding of its own.
                    Some(absent) if !is_from_here && absent.is_installed => None,
                    Some(_) if !is_from_here => Some(Standing::MayBeBrought),
                    _ => Some(Standing::Missing),
                }
            }
        }
    }
}

/// What modules require that is not there.
struct Absent<'a> {
    by_module: HashMap<ModuleIndex, AbsentOf<'a>>,
}

/// What one module requires that is not there.
struct AbsentOf<'a> {
    /// Whether the module is installed, so that it is told.
    is_installed: bool,
    names: Vec<&'a str>,
}

impl<'a> Absent<'a> {
    fn new(view: &WorkspaceView<'a>, installations: &Installations<'_>) -> Self {
        let wiring = view.wiring();
        let mut by_module: HashMap<ModuleIndex, AbsentOf<'_>> = HashMap::default();
        for requirement in &wiring.facts.requirements {
            let Some(module) = wiring.module_of(requirement.source) else { continue };
            if !installations.meets(requirement) {
                let is_installed = requirement.is_installed;
                let of = by_module.entry(module).or_insert(AbsentOf { is_installed, names: Vec::new() });
                of.names.push(wiring.text(requirement.name.name));
            }
        }
        Self { by_module }
    }

    fn of(&self, module: Option<ModuleIndex>) -> Option<&AbsentOf<'a>> {
        self.by_module.get(&module?)
    }
}

fn package(text: &str) -> Option<&str> {
    text.rsplit_once('.').map(|(package, _)| package)
}

fn distinct(types: &[ListedType]) -> impl Iterator<Item = Name> {
    let mut seen = HashSet::with_capacity(types.len());
    types.iter().map(|listed| listed.name).filter(move |&name| seen.insert(name))
}

/// A type that nothing has.
fn missing(view: &WorkspaceView<'_>, missed: &Missed, meant: Option<(&str, Meant)>) -> Finding {
    let (wiring, text) = (view.wiring(), view.text(missed.name));
    let offers = |service: &Service| service.offers.of(&wiring.facts.parts).first().map(|offer| offer.name);
    let contracts = missed.services.iter().filter_map(|&service| offers(wiring.service(service)));
    let mut contracts: Vec<&str> = contracts.map(|contract| view.text(contract)).collect();
    contracts.sort_unstable();
    contracts.dedup();
    let asked = match contracts.as_slice() {
        [] => String::new(),
        several => {
            format!("; it fails at the first request for {}", join_words(&several[..several.len().min(3)]))
        }
    };
    let mut standards = missed.services.iter().map(|&service| wiring.service(service).of_standard);
    let place = standards.find(|of| of.type_reach == TypeReach::Place).and_then(|of| of.type_place);
    let nowhere = match place {
        Some(place) => format!("nothing in {} has {text}", view.text(place)),
        None => format!("{text} is in nothing that was read"),
    };
    let mut finding = named(view, missed, format!("{nowhere}{asked}"));
    if let Some((name, meant)) = meant {
        let places: Vec<_> = finding.places.iter().map(|place| (place.source, place.span)).collect();
        finding = finding.fix(Fix::rename(format!("write {name}"), places, text, name, meant.likeness));
    }
    let origins =
        missed.services.iter().map(|&service| Origin { node: Graph::service(service), while_building: true });
    finding.advice("take the line out, or bring what has the type into the workspace").failing(origins)
}

/// A type that something may bring that is required and was not read.
fn may_be_brought(view: &WorkspaceView<'_>, missed: &Missed, absent: &Absent<'_>) -> Finding {
    let wiring = view.wiring();
    let module = |service: &ServiceIndex| wiring.module_of(wiring.service(*service).source);
    let of = missed.services.iter().filter_map(|service| absent.of(module(service)));
    let mut names: Vec<&str> = of.flat_map(|of| of.names.iter().copied()).collect();
    names.sort_unstable();
    names.dedup();
    let (text, names) = (view.text(missed.name), some_of(&names, 3));
    let message = format!("{text} may come from what is required and was not read: {names}");
    let mut finding =
        named(view, missed, message).advice("bring what is required into the workspace to have it checked");
    finding.severity = Severity::Note;
    finding
}

/// A type that lies in another place than what names it.
fn elsewhere(view: &WorkspaceView<'_>, missed: &Missed, listings: &[&ListedType]) -> Finding {
    let text = view.text(missed.name);
    let mut places: Vec<&str> = listings.iter().map(|listed| view.text(listed.place)).collect();
    places.sort_unstable();
    places.dedup();
    let have = if places.len() == 1 { "has" } else { "have" };
    let message = format!("{text} is not where it is named; only {} {have} it", some_of(&places, 3));
    let mut finding = named(view, missed, message);
    for listed in listings {
        finding = finding.at(listed.source, Span::at(0), "has the type");
    }
    finding.severity = Severity::Note;
    finding.advice("load both together, or move one of them to the other")
}

/// A finding about a type, at the places where it is named.
fn named(view: &WorkspaceView<'_>, missed: &Missed, message: String) -> Finding {
    let mut finding = Finding::new(&RULE.text, view.text(missed.name), message);
    for &index in &missed.services {
        let service = view.wiring().service(index);
        let span = service.type_name.map_or(service.id.span, |known| known.span);
        finding = finding.at(service.source, span, "named here");
    }
    finding
}
