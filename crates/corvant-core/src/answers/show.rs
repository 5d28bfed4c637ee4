//! One thing, with all that is known of it: where it is defined, what counts, what it gets, who needs it.

use super::{Kind, Subject, View};
use crate::audit::Report;
use crate::facts::{Attribute, Many, Named, Need, Scalar, Service, Setting, SuppliedKind, Tagging, Target};
use crate::finding::Finding;
use crate::graph::reach::{Origin, ReachSearch, most_work};
use crate::graph::{Edge, Graph, Node, What};
use crate::name::Name;
use crate::resolve::{Lead, Met, needs_of};
use crate::source::{Place, SourceIndex, Span};
use crate::wiring::{NeedIndex, ServiceIndex};

/// What there is to say of one thing.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Sheet {
    /// What it is.
    pub kind: Kind,
    /// What it is called.
    pub name: String,
    /// In order; none is empty.
    pub sections: Vec<Section>,
}

/// Facts of one kind.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Section {
    /// What they are: `needs`, `needed by`.
    pub title: &'static str,
    /// In the order of the definitions.
    pub facts: Vec<Fact>,
}

/// One fact.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Fact {
    /// As a person reads it.
    pub text: String,
    /// Its parts, for programs.
    pub parts: Vec<(&'static str, String)>,
    /// Where it is written.
    pub place: Option<Place>,
}

/// All that is known of a subject in one stage. `report` is the audit's, for findings about it.
pub fn show(view: &View<'_>, subject: Subject, report: &Report) -> Sheet {
    let mut writer = Writer { view, sections: Vec::new(), spans: Vec::new() };
    match subject.kind {
        Kind::Service => writer.service(subject.name),
        Kind::Contract => writer.contract(subject.name),
        Kind::Tag => writer.tag(subject.name),
        Kind::Setting => writer.setting(subject.name),
        Kind::Provider => writer.provider(subject.name),
        Kind::Module => writer.module(subject.name),
        Kind::Entry => writer.entry(subject.name),
    }
    writer.findings(subject, report);
    Sheet { kind: subject.kind, name: view.text(subject.name).to_owned(), sections: writer.sections }
}

/// Those that offer a contract, and which of them is given.
struct Contest {
    candidates: Vec<ServiceIndex>,
    /// Who wins, and by what.
    winner: Option<(ServiceIndex, String)>,
}

struct Writer<'v, 'a> {
    view: &'v View<'a>,
    sections: Vec<Section>,
    /// What was shown of the thing's own definitions: findings there are about it.
    spans: Vec<(SourceIndex, Span)>,
}

impl Writer<'_, '_> {
    fn add(&mut self, title: &'static str, text: impl Into<String>, place: Option<Place>) {
        self.add_parts(title, text, Vec::new(), place);
    }

    fn add_parts(
        &mut self,
        title: &'static str,
        text: impl Into<String>,
        parts: Vec<(&'static str, String)>,
        place: Option<Place>,
    ) {
        let fact = Fact { text: text.into(), parts, place };
        match self.sections.iter_mut().find(|section| section.title == title) {
            Some(section) => section.facts.push(fact),
            None => self.sections.push(Section { title, facts: vec![fact] }),
        }
    }

    /// Adds a fact that stands in the thing's own definition.
    fn own(&mut self, title: &'static str, text: impl Into<String>, source: SourceIndex, span: Span) {
        self.spans.push((source, span));
        self.add(title, text, Some(Place::new(source, span, title)));
    }

    fn service(&mut self, id: Name) {
        let view = self.view;
        let definitions: Vec<(ServiceIndex, &Service)> =
            view.wiring.services().filter(|(_, service)| service.id.name == id).collect();
        for &(index, service) in &definitions {
            self.own("defined", self.standing(index, service), service.source, service.id.span);
        }
        self.supplied(SuppliedKind::Service, id, "defined", "brought by the host platform");
        let counts = definitions.iter().find(|(index, _)| view.resolution.ids.is_active(*index));
        let Some(&(index, service)) = counts.or(definitions.first()) else {
            self.needed_as(Target::Service(id));
            return;
        };
        self.leads(id, index);
        self.essence(service);
        self.needs(service.needs, "needs");
        self.users(Graph::service(index));
        self.serves(Graph::service(index));
        self.tags(service);
        self.stages(id);
    }

    /// What a definition of an id is in this stage: the one that counts, or why it does not.
    fn standing(&self, index: ServiceIndex, service: &Service) -> String {
        let view = self.view;
        let module = view.module_name(service.source);
        let limits = service.stages.of(&view.wiring.facts.named);
        let limits: Vec<&str> = limits.iter().map(|stage| view.text(stage.name)).collect();
        let stages =
            if limits.is_empty() { String::new() } else { format!(", only in {}", limits.join(", ")) };
        let ids = &view.resolution.ids;
        let shadowed = ids.duplicates().iter().find(|pair| pair.other == index);
        let standing = if service.template {
            "a template, never built".to_owned()
        } else if ids.is_active(index) {
            "this one counts".to_owned()
        } else if let Some(pair) = shadowed {
            format!("does not count: {} is the one that does", self.address(pair.counting))
        } else if limits.is_empty() {
            match ids.first(service.id.name) {
                Some(first) if first != index => {
                    format!("replaced by {} ({})", view.wiring.id(first), self.address(first))
                }
                _ => "does not count".to_owned(),
            }
        } else {
            "not in this stage".to_owned()
        };
        format!("in module {module}: {standing}{stages}")
    }

    fn address(&self, service: ServiceIndex) -> String {
        let service = self.view.wiring.service(service);
        self.view.wiring.address(service.source, service.id.span)
    }

    /// Where the host platform is said to bring something.
    fn supplied(&mut self, kind: SuppliedKind, name: Name, title: &'static str, text: &str) {
        let all = self.view.wiring.facts.supplied.iter();
        for supplied in all.filter(|supplied| supplied.kind == kind && supplied.name.name == name) {
            self.own(title, text, supplied.source, supplied.name.span);
        }
    }

    /// Where the id leads, if that is not the definition itself.
    fn leads(&mut self, id: Name, index: ServiceIndex) {
        let view = self.view;
        let service = view.wiring.service(index);
        let links = [
            (service.alias_of, "alias of"),
            (service.wraps, "wraps"),
            (service.replaces, "replaces"),
            (service.like, "like"),
        ];
        for (target, title) in links {
            if let Some(target) = target {
                self.own(title, view.text(target.name), service.source, target.span);
            }
        }
        let end = view.resolution.ids.first(id).map(|first| view.resolution.ids.stand_in(first));
        if let Some(end) = end.filter(|&end| end != index) {
            let place = view.place(Graph::service(end));
            self.add("handed out as", view.wiring.id(end), place);
        }
        for (_, other) in view.wiring.services() {
            if other.alias_of.is_some_and(|target| target.name == id) {
                let place = Place::new(other.source, other.id.span, "alias");
                self.add("also called", view.text(other.id.name), Some(place));
            }
        }
    }

    /// Type, lifetime, contracts, key: with what a template or a default adds.
    fn essence(&mut self, service: &Service) {
        let view = self.view;
        let model = service.like.and_then(|model| view.wiring.first_definition(model.name));
        let model = model.map(|model| view.wiring.service(model));
        let from = |named: Named, field: fn(&Service) -> Option<Named>| {
            let given = model.filter(|&model| field(model) == Some(named));
            given.map_or_else(String::new, |model| format!(", from {}", view.text(model.id.name)))
        };
        if let Some(type_name) = service.type_name {
            let text =
                format!("{}{}", view.text(type_name.name), from(type_name, |service| service.type_name));
            self.own("type", text, service.source, type_name.span);
        }
        match (service.lifetime, &view.wiring.policy.lifetimes.default) {
            (Some(lifetime), _) => {
                let text =
                    format!("{}{}", view.text(lifetime.name), from(lifetime, |service| service.lifetime));
                self.own("lifetime", text, service.source, lifetime.span);
            }
            (None, Some(default)) => {
                self.add("lifetime", format!("{default}, the workspace's default"), None);
            }
            (None, None) => self.add("lifetime", "not said", None),
        }
        for offer in service.offers.of(&view.wiring.facts.named) {
            let key = view.under(service.key);
            let text =
                format!("{}{key}{}", view.text(offer.name), self.winner(&self.contest(offer.name), service));
            self.own("offers", text, service.source, offer.span);
        }
        if service.is_default {
            self.add("default", "wins over others that offer the same", None);
        }
        if service.internal {
            self.add("internal", "only its own module may need it", None);
        }
    }

    /// Who wins among those that offer a contract.
    fn contest(&self, contract: Name) -> Contest {
        let view = self.view;
        let winner = match view.resolution.ask(view.wiring, contract, None) {
            Met::Service(winner) => Some((winner, view.settled(contract, None))),
            _ => None,
        };
        Contest { candidates: view.resolution.candidates(view.wiring, contract), winner }
    }

    /// Whether a service is what its contract gives, if it has rivals.
    fn winner(&self, contest: &Contest, service: &Service) -> String {
        let wiring = self.view.wiring;
        let others = contest.candidates.len();
        if others < 2 || service.key.is_some() {
            return String::new();
        }
        match &contest.winner {
            Some((winner, settled)) if wiring.service(*winner).id == service.id => {
                format!(": given to who needs it, {settled}")
            }
            Some((winner, settled)) => format!(": not given, {} is ({settled})", wiring.id(*winner)),
            None => format!(": one of {others}, and nothing says which is meant"),
        }
    }

    fn needs(&mut self, needs: Many<Need>, title: &'static str) {
        for number in needs.range() {
            let need = self.view.wiring.facts.needs[number];
            let (gets, reason) = self.view.met(NeedIndex(number as u32));
            let (slot, target) = (self.view.text(need.slot.name), self.view.target(&need));
            let manner = View::manner(&need);
            let how = if manner.is_empty() { String::new() } else { format!("; {manner}") };
            let text = match &gets {
                Some(id) if *id == target => format!("{slot}: {target}{how}"),
                Some(id) => format!("{slot}: {target} → {id}, {reason}{how}"),
                None => format!("{slot}: {target}, {reason}{how}"),
            };
            let mut parts = vec![("slot", slot.to_owned()), ("target", target), ("reason", reason)];
            parts.extend(gets.map(|gets| ("gets", gets)));
            if !manner.is_empty() {
                parts.push(("manner", manner));
            }
            self.spans.push((need.source, need.span));
            let place = Place::new(need.source, need.span, title);
            self.add_parts(title, text, parts, Some(place));
        }
    }

    /// Who needs a node; what collects a tag or all that offer a contract is named with it.
    fn users(&mut self, node: Node) {
        for &edge in self.view.graph.needed_by(node) {
            match self.view.graph.what(edge.node) {
                What::Tag(_) | What::All(_) => {
                    let through = self.view.name(edge.node);
                    let collectors = self.view.graph.needed_by(edge.node);
                    for &collector in collectors {
                        self.user(collector, Some(&through));
                    }
                }
                What::Question(_) => {
                    let text = format!("{}: may be meant, nothing says which", self.view.name(edge.node));
                    self.add("claims", text, None);
                }
                _ => self.user(edge, None),
            }
        }
    }

    /// Providers and entries that come to use a node, over however many others; the first few of each.
    fn serves(&mut self, node: Node) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        let origin = Origin { node, while_building: true };
        let (reach, _) = ReachSearch::new(view.wiring, &view.graph).reach(&[origin], most_work(&view.graph));
        for &provider in &reach.start_up {
            let provider = &facts.providers[provider as usize];
            let place = Place::new(provider.source, provider.id.span, "serves");
            self.add("serves", format!("provider {}", view.text(provider.id.name)), Some(place));
        }
        for &entry in &reach.first_entries {
            let entry = &facts.entries[entry as usize];
            let at = entry.at.map_or_else(String::new, |at| format!(" ({})", view.text(at)));
            let place = Place::new(entry.source, entry.id.span, "serves");
            self.add("serves", format!("entry {}{at}", view.text(entry.id.name)), Some(place));
        }
        let more = (reach.entries as usize).saturating_sub(reach.first_entries.len());
        if more > 0 {
            let least = if reach.at_least { "at least " } else { "" };
            self.add("serves", format!("… and {least}{more} more entries"), None);
        }
    }

    fn user(&mut self, edge: Edge, through: Option<&str>) {
        let view = self.view;
        let (kind, name) = (view.kind(edge.node), view.name(edge.node));
        let need = edge.need_in(view.wiring);
        let slot = need.map_or_else(String::new, |need| format!(", slot {}", view.text(need.slot.name)));
        let manner = need.map(View::manner).filter(|manner| !manner.is_empty());
        let how = manner.map_or_else(String::new, |manner| format!("; {manner}"));
        let as_what = match (through, need.map(|need| need.target)) {
            (Some(through), _) => format!(", as one of {through}"),
            (None, Some(Target::Contract(contract))) => format!(", as {}", view.text(contract)),
            _ => String::new(),
        };
        let text = format!("{kind} {name}{slot}{as_what}{how}");
        let place = need.map(|need| Place::new(need.source, need.span, "needed here"));
        let place = place.or_else(|| view.place(edge.node));
        self.add_parts("needed by", text, vec![("kind", kind.to_owned()), ("name", name)], place);
    }

    /// Who needs a name that leads to no service.
    fn needed_as(&mut self, wanted: Target) {
        let view = self.view;
        let is_built = |node: &Node| match view.graph.what(*node) {
            What::Service(service) => view.resolution.ids.is_built(service),
            _ => true,
        };
        for node in (0..view.graph.len() as u32).filter(is_built) {
            for number in needs_of(view.wiring, view.graph.what(node)).into_iter().flatten() {
                let need = &view.wiring.facts.needs[number];
                if need.target != wanted {
                    continue;
                }
                let (kind, name) = (view.kind(node), view.name(node));
                let (gets, reason) = view.met(NeedIndex(number as u32));
                let key = view.under(need.key);
                let gets_words = gets.as_ref().map_or_else(String::new, |gets| format!("gets {gets}, "));
                let text =
                    format!("{kind} {name}, slot {}{key}: {gets_words}{reason}", view.text(need.slot.name));
                let mut parts = vec![("kind", kind.to_owned()), ("name", name), ("reason", reason)];
                parts.extend(gets.map(|gets| ("gets", gets)));
                self.add_parts(
                    "needed by",
                    text,
                    parts,
                    Some(Place::new(need.source, need.span, "needed here")),
                );
            }
        }
    }

    fn tags(&mut self, service: &Service) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for tagging in service.taggings.of(&facts.taggings) {
            let attributes = attributes(view, tagging);
            let collectors =
                view.graph.tag(tagging.tag.name).map_or(&[][..], |tag| view.graph.needed_by(tag));
            let mut names: Vec<String> = collectors.iter().map(|edge| view.name(edge.node)).collect();
            names.dedup();
            let collected = match names.as_slice() {
                [] => ", which nothing here collects".to_owned(),
                names => format!(", collected by {}", names.join(", ")),
            };
            let text = format!("{}{attributes}{collected}", view.text(tagging.tag.name));
            self.own("tags", text, tagging.source, tagging.tag.span);
        }
    }

    /// The stages in which the id leads to something else, or its needs do.
    fn stages(&mut self, id: Name) {
        let line = |view: &View<'_>| {
            let leads = view.resolution.ids.lead(view.wiring, id);
            let Lead::Service(service) = leads else {
                return ("is not there".to_owned(), Vec::new());
            };
            let needs = view.wiring.service(service).needs.range();
            let gets = needs.map(|need| {
                let slot = view.text(view.wiring.facts.needs[need].slot.name);
                let (gets, reason) = view.met(NeedIndex(need as u32));
                format!("{slot} gets {}", gets.unwrap_or(reason))
            });
            let own = view.wiring.service(service);
            let address = view.wiring.address(own.source, own.id.span);
            (format!("is {} of {address}", view.wiring.id(service)), gets.collect())
        };
        let (here, needs) = line(self.view);
        for (stage, (there, others)) in self.view.by_stage(line) {
            let mut words: Vec<String> = Vec::new();
            if here == there {
                words.extend(others.into_iter().filter(|other| !needs.contains(other)));
            } else {
                words.push(there);
            }
            if !words.is_empty() {
                self.add("differs", format!("in {}: {}", self.view.text(stage), words.join(", ")), None);
            }
        }
    }

    fn contract(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for contract in facts.contracts.iter().filter(|contract| contract.contract.name == name) {
            let module = view.module_name(contract.source);
            self.own("declared", format!("in module {module}"), contract.source, contract.contract.span);
            for base in contract.extends.of(&facts.named) {
                self.own("extends", view.text(base.name), contract.source, base.span);
            }
            if let Some((meant, span)) = contract.meant_for {
                self.own("meant for", meant.word(), contract.source, span);
            }
            for key in contract.keys.of(&facts.named) {
                self.own("keys", view.text(key.name), contract.source, key.span);
            }
        }
        self.supplied(SuppliedKind::Contract, name, "declared", "brought by the host platform");
        for choice in facts.choices.iter().filter(|choice| choice.contract.name == name) {
            let key = view.under(choice.key);
            let stage = choice.stage.map_or_else(String::new, |stage| format!(", in {}", view.text(stage)));
            let text = format!("{}{key}{stage}", view.text(choice.service.name));
            self.own("choices", text, choice.source, choice.service.span);
        }
        let contest = self.contest(name);
        for &service in &contest.candidates {
            let definition = view.wiring.service(service);
            let key = view.under(definition.key);
            let text = format!("{}{key}{}", view.wiring.id(service), self.winner(&contest, definition));
            let place = view.place(Graph::service(service));
            self.add_parts("offered by", text, vec![("name", view.wiring.id(service).to_owned())], place);
        }
        self.needed_as(Target::Contract(name));
        self.needed_as(Target::All(name));
        let gets = |view: &View<'_>| match view.resolution.ask(view.wiring, name, None) {
            Met::Service(service) => format!("gives {}", view.wiring.id(service)),
            _ => "gives nothing that is settled".to_owned(),
        };
        let here = gets(view);
        for (stage, there) in view.by_stage(gets).into_iter().filter(|(_, there)| *there != here) {
            self.add("differs", format!("in {}: {there}", view.text(stage)), None);
        }
    }

    fn tag(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for tag in facts.tags.iter().filter(|tag| tag.tag.name == name) {
            let module = view.module_name(tag.source);
            self.own("declared", format!("in module {module}"), tag.source, tag.tag.span);
            if let Some(contract) = tag.contract {
                let text = format!("{}, by every carrier", view.text(contract.name));
                self.own("offered", text, tag.source, contract.span);
            }
            let rules = tag.attributes.map_or(&[][..], |rules| rules.of(&facts.attribute_rules));
            for rule in rules {
                let kind = rule.kind.map_or("any kind", Scalar::word);
                let words = [(rule.required, "required"), (rule.unique, "unique")];
                let words: String =
                    words.iter().filter(|(is, _)| *is).map(|(_, word)| format!(", {word}")).collect();
                let text = format!("{}: {kind}{words}", view.text(rule.attribute.name));
                self.own("attributes", text, tag.source, rule.attribute.span);
            }
        }
        self.supplied(SuppliedKind::Tag, name, "declared", "collected by the host platform");
        for service in view.resolution.carriers(name) {
            let taggings = view.wiring.service(service).taggings.of(&facts.taggings);
            for tagging in taggings.iter().filter(|tagging| tagging.tag.name == name) {
                let attributes = attributes(view, tagging);
                let id = view.wiring.id(service);
                let place = Place::new(tagging.source, tagging.tag.span, "tagged here");
                self.add_parts(
                    "carried by",
                    format!("{id}{attributes}"),
                    vec![("name", id.to_owned())],
                    Some(place),
                );
            }
        }
        if let Some(node) = view.graph.tag(name) {
            for &edge in view.graph.needed_by(node) {
                self.user(edge, None);
            }
        }
    }

    fn setting(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        let settings: Vec<&Setting> =
            facts.settings.iter().filter(|setting| setting.setting.name == name).collect();
        for setting in &settings {
            let text = |span: Span| {
                let text = &view.wiring.sources[setting.source.index()].text;
                text.get(span.start as usize..span.end as usize).unwrap_or_default().trim().to_owned()
            };
            let required = if setting.required { ", required" } else { "" };
            let module = view.module_name(setting.source);
            self.own(
                "declared",
                format!("in module {module}{required}"),
                setting.source,
                setting.setting.span,
            );
            if let Some(value) = setting.value {
                self.own("value", text(value.span), setting.source, value.span);
            }
            for value in setting.stages.of(&facts.stage_values) {
                let line = format!("{} in {}", text(value.value.span), view.text(value.stage.name));
                self.own("value", line, setting.source, value.value.span);
            }
        }
        let values = settings.iter().flat_map(|setting| {
            let staged = setting.stages.of(&facts.stage_values).iter().map(|value| value.references);
            staged.chain([setting.references]).map(|references| (setting.source, references))
        });
        for (source, references) in values.collect::<Vec<_>>() {
            for reference in references.of(&facts.named) {
                self.own("refers to", view.text(reference.name), source, reference.span);
            }
        }
        self.needed_as(Target::Setting(name));
    }

    fn provider(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for (number, provider) in facts.providers.iter().enumerate().filter(|(_, one)| one.id.name == name) {
            let module = view.module_name(provider.source);
            self.own("defined", format!("in module {module}"), provider.source, provider.id.span);
            if let Some(type_name) = provider.type_name {
                self.own("type", view.text(type_name.name), provider.source, type_name.span);
            }
            match provider.registers {
                Some(registers) => {
                    for service in registers.of(&facts.named) {
                        self.own("registers", view.text(service.name), provider.source, service.span);
                    }
                }
                None => self.add("registers", format!("all services of module {module}"), None),
            }
            self.needs(provider.register, "uses while registering");
            self.needs(provider.start, "uses at start");
            for before in provider.after.of(&facts.named) {
                self.own("after", view.text(before.name), provider.source, before.span);
            }
            self.users(view.graph.provider(number));
        }
        for roster in view.wiring.rosters(view.resolution.stage) {
            let listed = roster.providers.of(&facts.named);
            for (place, listed) in listed.iter().enumerate().filter(|(_, listed)| listed.name == name) {
                let text = format!("number {} of the roster", place + 1);
                self.own("loaded", text, roster.source, listed.span);
            }
        }
    }

    fn module(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        let is_it = |source: SourceIndex| view.wiring.module_name(source) == Some(view.text(name));
        for (number, header) in view.wiring.headers.iter().enumerate() {
            let source = SourceIndex(number as u32);
            if let Some(module) = header.module.filter(|module| module.name == name) {
                self.own("files", view.wiring.path(source).to_owned(), source, module.span);
            }
        }
        for &(source, used) in facts.uses.iter().filter(|(source, _)| is_it(*source)) {
            self.own("uses", view.text(used.name), source, used.span);
        }
        for &(source, used) in facts.uses.iter().filter(|(_, used)| used.name == name) {
            let place = Place::new(source, used.span, "used here");
            self.add("used by", view.module_name(source).to_owned(), Some(place));
        }
        for service in facts.services.iter().filter(|service| is_it(service.source)) {
            self.own("services", view.text(service.id.name), service.source, service.id.span);
        }
        for provider in facts.providers.iter().filter(|provider| is_it(provider.source)) {
            self.own("providers", view.text(provider.id.name), provider.source, provider.id.span);
        }
        for entry in facts.entries.iter().filter(|entry| is_it(entry.source)) {
            self.own("entries", view.text(entry.id.name), entry.source, entry.id.span);
        }
    }

    fn entry(&mut self, name: Name) {
        let (view, facts) = (self.view, &self.view.wiring.facts);
        for entry in facts.entries.iter().filter(|entry| entry.id.name == name) {
            let module = view.module_name(entry.source);
            self.own("defined", format!("in module {module}"), entry.source, entry.id.span);
            if let Some(at) = entry.at {
                self.add("at", view.text(at), None);
            }
            if let Some(type_name) = entry.type_name {
                self.own("type", view.text(type_name.name), entry.source, type_name.span);
            }
            if let Some(lifetime) = entry.lifetime {
                self.own("lifetime", view.text(lifetime.name), entry.source, lifetime.span);
            }
            self.needs(entry.needs, "needs");
        }
    }

    /// Findings about the subject, and those that blame its definition.
    fn findings(&mut self, subject: Subject, report: &Report) {
        let name = self.view.text(subject.name);
        let is_about = |finding: &&Finding| {
            finding.subject.split(" > ").any(|part| part == name)
                || finding.places.iter().any(|place| self.spans.contains(&(place.source, place.span)))
        };
        // A module's sheet lists its services; what is wrong with each is on theirs.
        let is_shown = |finding: &&Finding| subject.kind != Kind::Module || finding.subject == name;
        let about: Vec<&Finding> = report.findings.iter().filter(is_about).filter(is_shown).collect();
        for finding in about {
            let text = format!("{} {}: {}", finding.severity.word(), finding.rule.name, finding.message);
            let parts = vec![
                ("rule", finding.rule.name.to_owned()),
                ("severity", finding.severity.word().to_owned()),
                ("subject", finding.subject.clone()),
            ];
            self.add_parts("findings", text, parts, finding.places.first().cloned());
        }
    }
}

/// The attributes of a tag on a service, in brackets.
fn attributes(view: &View<'_>, tagging: &Tagging) -> String {
    let attribute = |attribute: &Attribute| {
        format!("{}: {}", view.text(attribute.attribute.name), view.text(attribute.value.name))
    };
    let all: Vec<String> =
        tagging.attributes.of(&view.wiring.facts.attributes).iter().map(attribute).collect();
    if all.is_empty() { String::new() } else { format!(" ({})", all.join(", ")) }
}
