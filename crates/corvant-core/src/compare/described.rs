//! Definitions as lists of what they say: the same for every kind, so that any two can be compared.

use crate::answers::Kind;
use crate::answers::terms::{Aim, NeedManner};
use crate::facts::{Entry, Many, Named, Need, Provider, Service, Setting, SourceKind, Target};
use crate::name::Name;
use crate::source::{SourceIndex, Span};
use crate::suppose::SUPPOSED;
use crate::wiring::{ServiceIndex, Wiring};
use crate::word::words;
use foldhash::{HashMap, HashSet};
use std::collections::BTreeMap;

words! {
    /// What a part of a definition is about.
    Aspect {
        Module "module"
        File "file"
        Type "type"
        Lifetime "lifetime"
        Key "key"
        Default "default"
        Internal "internal"
        Template "template"
        Like "like"
        AliasOf "alias of"
        Wraps "wraps"
        Replaces "replaces"
        Wire "wire"
        Offers "offers"
        Need "need"
        /// What a provider uses while it registers.
        Register "register need"
        /// What it uses at start.
        Start "start need"
        Tag "tag"
        /// An attribute of a tag: `TAG.ATTRIBUTE`.
        Attribute "attribute"
        Stage "stage"
        /// A stage that it is not in.
        Except "not in stage"
        Extends "extends"
        MeantFor "meant for"
        /// A key that a contract may be needed under.
        Keys "keys"
        Required "required"
        /// The value of a setting: by stage.
        Value "value"
        Registers "registers"
        After "after"
        At "at"
        Uses "uses"
    }
}

/// What a part says.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Value {
    /// It is so.
    Yes,
    /// A name.
    Name(String),
    /// A need.
    Need {
        /// What it is aimed at.
        aim: Aim,
        /// Whether it is met on first use.
        lazy: bool,
        /// Whether it may be absent.
        optional: bool,
        /// By what means it is met.
        via: &'static str,
    },
    /// The value of a setting, which may be secret.
    Text(String),
}

/// A part of a definition: what it is about, which of several, what it says, and where.
pub(super) type Part = ((Aspect, String), (Value, Option<(SourceIndex, Span)>));

/// Parts by what they are about.
pub(super) type Parts = BTreeMap<(Aspect, String), (Value, Option<(SourceIndex, Span)>)>;

/// What a definition says.
pub(super) struct Described {
    pub(super) source: SourceIndex,
    pub(super) span: Span,
    pub(super) parts: Parts,
}

impl Described {
    /// What it says, without where.
    pub(super) fn values(&self) -> impl Iterator<Item = (&(Aspect, String), &Value)> {
        self.parts.iter().map(|(key, (value, _))| (key, value))
    }

    pub(super) fn value(&self, aspect: Aspect) -> Option<&Value> {
        self.parts.get(&(aspect, String::new())).map(|(value, _)| value)
    }
}

/// One definition, by its number among those of its kind.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Definition {
    pub(super) kind: Kind,
    pub(super) number: usize,
}

/// The files that say the same in another wiring, whatever else is another: manifests in Corvant's own format, of which
/// nothing is worked out from other files.
pub(super) fn same_files(wiring: &Wiring, other: &Wiring) -> Vec<bool> {
    let default = |wiring: &Wiring| wiring.policy.lifetimes.default.clone();
    // What is supposed stands in no file.
    let is_supposed = |wiring: &Wiring| wiring.paths().any(|path| path == SUPPOSED);
    if default(wiring) != default(other) || is_supposed(wiring) || is_supposed(other) {
        return vec![false; wiring.sources.len()];
    }
    let key = |wiring: &'_ Wiring, number: usize| {
        let header = &wiring.headers[number];
        let is_plain = header.kind == SourceKind::Manifest && header.reader.is_none();
        let is_active = wiring.dormant_module(SourceIndex(number as u32)).is_none();
        is_plain && is_active
    };
    let others: HashMap<&str, usize> = other
        .paths()
        .enumerate()
        .filter(|&(number, _)| key(other, number))
        .map(|(number, path)| (path, number))
        .collect();
    let is_same = |(number, path): (usize, &str)| {
        let twin = others.get(path).filter(|_| key(wiring, number));
        twin.is_some_and(|&twin| wiring.sources[number].has_text_of(&other.sources[twin]))
    };
    wiring.paths().enumerate().map(is_same).collect()
}

/// Services of which others say something, models or constructors: not all of it stands in their files.
pub(super) fn amended(wiring: &Wiring) -> impl Iterator<Item = &str> {
    let is_amended = |(index, one): &(ServiceIndex, &Service)| {
        let needs = wiring.own_needs(*index).of(&wiring.facts.parts);
        one.amends || one.like.is_some() || !one.kept_from.is_empty() || needs.iter().any(|need| need.by_type)
    };
    wiring.services().filter(is_amended).map(|(_, one)| wiring.text(one.id.name))
}

/// All definitions by kind and name, but those that say the same as their files do.
pub(super) fn definitions<'a>(
    wiring: &'a Wiring,
    same: &[bool],
    amended: &HashSet<&str>,
) -> BTreeMap<(Kind, &'a str), Vec<Definition>> {
    let facts = &wiring.facts;
    let mut all: BTreeMap<(Kind, &str), Vec<Definition>> = BTreeMap::new();
    let mut add = |kind: Kind, name: Name, is_same: bool, number: usize| {
        if !is_same {
            all.entry((kind, wiring.text(name))).or_default().push(Definition { kind, number });
        }
    };
    let is_same = |source: SourceIndex| same[source.index()];
    for (number, one) in facts.services.iter().enumerate() {
        let is_same = is_same(one.source) && !amended.contains(wiring.text(one.id.name));
        add(Kind::Service, one.id.name, is_same, number);
    }
    for (number, one) in facts.contracts.iter().enumerate() {
        add(Kind::Contract, one.contract.name, is_same(one.source), number);
    }
    for (number, one) in facts.tags.iter().enumerate() {
        add(Kind::Tag, one.tag.name, is_same(one.source), number);
    }
    for (number, one) in facts.settings.iter().enumerate() {
        add(Kind::Setting, one.setting.name, is_same(one.source), number);
    }
    for (number, one) in facts.providers.iter().enumerate() {
        add(Kind::Provider, one.id.name, is_same(one.source), number);
    }
    for (number, one) in facts.entries.iter().enumerate() {
        add(Kind::Entry, one.id.name, is_same(one.source), number);
    }
    // A module may be spoken for by many files.
    for (number, one) in wiring.modules.iter().enumerate() {
        add(Kind::Module, one.module.name, false, number);
    }
    all
}

/// Says what definitions of a wiring say.
pub(super) struct Describer<'a> {
    wiring: &'a Wiring,
    /// By module those that it uses, and where that is said.
    uses: HashMap<&'a str, Vec<(SourceIndex, Named)>>,
}

/// Writes down what a definition says.
struct Writer<'a> {
    wiring: &'a Wiring,
    source: SourceIndex,
    parts: Vec<Part>,
}

impl<'a> Describer<'a> {
    pub(super) fn new(wiring: &'a Wiring) -> Self {
        let mut uses: HashMap<&str, Vec<(SourceIndex, Named)>> = HashMap::default();
        for (source, used) in wiring.facts.used_modules() {
            if let Some(module) = wiring.module_name(source) {
                uses.entry(module).or_default().push((source, used));
            }
        }
        Self { wiring, uses }
    }

    /// Where a definition is written.
    fn place(&self, Definition { kind, number }: Definition) -> (SourceIndex, Span) {
        let facts = &self.wiring.facts;
        match kind {
            Kind::Service => (facts.services[number].source, facts.services[number].id.span),
            Kind::Contract => (facts.contracts[number].source, facts.contracts[number].contract.span),
            Kind::Tag => (facts.tags[number].source, facts.tags[number].tag.span),
            Kind::Setting => (facts.settings[number].source, facts.settings[number].setting.span),
            Kind::Provider => (facts.providers[number].source, facts.providers[number].id.span),
            Kind::Entry => (facts.entries[number].source, facts.entries[number].id.span),
            Kind::Module | Kind::Type => {
                (self.wiring.modules[number].source, self.wiring.modules[number].module.span)
            }
        }
    }

    /// What a definition says.
    pub(super) fn describe(&self, definition: Definition) -> Described {
        let (wiring, facts) = (self.wiring, &self.wiring.facts);
        let (source, span) = self.place(definition);
        let Definition { kind, number } = definition;
        let mut writer = Writer { wiring, source, parts: Vec::new() };
        if kind != Kind::Module {
            let module = wiring.module_name(source).unwrap_or("no module");
            writer.add(Aspect::Module, "", name(module), None);
            writer.add(Aspect::File, "", name(wiring.path(source)), None);
        }
        match kind {
            Kind::Service => writer.service(ServiceIndex(number as u32)),
            Kind::Contract => writer.contract(number),
            Kind::Tag => writer.tag(number),
            Kind::Setting => writer.setting(&facts.settings[number]),
            Kind::Provider => writer.provider(&facts.providers[number]),
            Kind::Entry => writer.entry(&facts.entries[number]),
            Kind::Module | Kind::Type => {
                let module = wiring.text(wiring.modules[number].module.name);
                for &(source, used) in self.uses.get(module).into_iter().flatten() {
                    let item = wiring.text(used.name).to_owned();
                    writer.parts.push(((Aspect::Uses, item), (Value::Yes, Some((source, used.span)))));
                }
            }
        }
        Described { source, span, parts: told_apart(writer.parts) }
    }
}

/// Parts by what they are about; several that are called alike are told apart by their order.
fn told_apart(parts: Vec<Part>) -> Parts {
    let mut all = Parts::new();
    let mut seen: HashMap<(Aspect, String), usize> = HashMap::default();
    for ((aspect, item), value) in parts {
        let count = seen.entry((aspect, item.clone())).or_default();
        *count += 1;
        let item = if *count > 1 { format!("{item} ({count})") } else { item };
        all.insert((aspect, item), value);
    }
    all
}

fn name(text: &str) -> Value {
    Value::Name(text.to_owned())
}

impl Writer<'_> {
    fn add(&mut self, aspect: Aspect, item: &str, value: Value, span: Option<Span>) {
        self.parts.push(((aspect, item.to_owned()), (value, span.map(|span| (self.source, span)))));
    }

    fn named(&mut self, aspect: Aspect, named: Option<Named>) {
        if let Some(named) = named {
            let value = name(self.wiring.text(named.name));
            self.add(aspect, "", value, Some(named.span));
        }
    }

    fn flag(&mut self, aspect: Aspect, is_so: bool) {
        if is_so {
            self.add(aspect, "", Value::Yes, None);
        }
    }

    fn list(&mut self, aspect: Aspect, names: Many<Named>) {
        for named in names.of(&self.wiring.facts.parts) {
            let name = self.wiring.text(named.name);
            self.add(aspect, name, Value::Yes, Some(named.span));
        }
    }

    fn needs(&mut self, aspect: Aspect, needs: Many<Need>) {
        for need in needs.of(&self.wiring.facts.parts) {
            let NeedManner { lazy, optional, via } = NeedManner::of(need);
            let value = Value::Need { aim: aim(self.wiring, need), lazy, optional, via: via.word() };
            let slot = self.wiring.text(need.slot.name).to_owned();
            self.parts.push(((aspect, slot), (value, Some((need.source, need.span)))));
        }
    }

    fn service(&mut self, index: ServiceIndex) {
        let wiring = self.wiring;
        let service: &Service = wiring.service(index);
        // What it takes over from a model is the model's to say.
        let own = |named: Option<Named>| named.filter(|named| !service.takes_over_at(named.span));
        self.named(Aspect::Type, own(service.type_name));
        match (own(service.lifetime), &wiring.policy.lifetimes.default) {
            (Some(lifetime), _) => self.named(Aspect::Lifetime, Some(lifetime)),
            (None, Some(default)) if service.lifetime.is_none() => {
                self.add(Aspect::Lifetime, "", name(default), None);
            }
            _ => {}
        }
        self.named(Aspect::Key, own(service.key));
        self.flag(Aspect::Default, service.is_default);
        self.flag(Aspect::Internal, service.internal);
        self.flag(Aspect::Template, service.template);
        self.named(Aspect::Like, service.like);
        self.named(Aspect::AliasOf, service.alias_of);
        self.named(Aspect::Wraps, service.wraps);
        self.named(Aspect::Replaces, service.replaces);
        self.named(Aspect::Wire, own(service.wire));
        for offer in service.offers.of(&wiring.facts.parts) {
            if !service.takes_over_at(offer.span) {
                self.add(Aspect::Offers, wiring.text(offer.name), Value::Yes, Some(offer.span));
            }
        }
        self.needs(Aspect::Need, wiring.own_needs(index));
        for tagging in wiring.own_taggings(index).of(&wiring.facts.parts) {
            let tag = wiring.text(tagging.tag.name);
            self.add(Aspect::Tag, tag, Value::Yes, Some(tagging.tag.span));
            for attribute in tagging.attributes.of(&wiring.facts.parts) {
                let item = format!("{tag}.{}", wiring.text(attribute.attribute.name));
                let value = name(wiring.text(attribute.value.name));
                self.add(Aspect::Attribute, &item, value, Some(attribute.value.span));
            }
        }
        self.list(Aspect::Stage, service.stages);
        self.list(Aspect::Except, service.except);
        self.list(Aspect::Except, service.kept_from);
    }

    fn contract(&mut self, number: usize) {
        let wiring = self.wiring;
        let contract = wiring.facts.contracts[number];
        self.list(Aspect::Extends, contract.extends);
        if let Some((meant, span)) = contract.meant_for {
            self.add(Aspect::MeantFor, "", name(meant.word()), Some(span));
        }
        self.list(Aspect::Keys, contract.keys);
    }

    fn tag(&mut self, number: usize) {
        let wiring = self.wiring;
        let tag = wiring.facts.tags[number];
        self.named(Aspect::Offers, tag.contract);
        let rules = tag.attributes.map_or(&[][..], |rules| rules.of(&wiring.facts.parts));
        for rule in rules {
            let words = [
                rule.kind.map_or("any kind", crate::facts::Scalar::word),
                if rule.required { "required" } else { "" },
                if rule.unique { "unique" } else { "" },
            ];
            let said: Vec<&str> = words.into_iter().filter(|word| !word.is_empty()).collect();
            let value = Value::Name(said.join(", "));
            self.add(Aspect::Attribute, wiring.text(rule.attribute.name), value, Some(rule.attribute.span));
        }
    }

    fn setting(&mut self, setting: &Setting) {
        let wiring = self.wiring;
        self.flag(Aspect::Required, setting.required);
        let staged = setting.stages.of(&wiring.facts.parts).iter();
        let staged = staged.map(|value| (wiring.text(value.stage.name), value.value));
        for (stage, value) in setting.value.map(|value| ("", value)).into_iter().chain(staged) {
            let text = crate::source::cut(&wiring.sources[setting.source.index()].text, value.span);
            self.add(Aspect::Value, stage, Value::Text(text.trim().to_owned()), Some(value.span));
        }
    }

    fn provider(&mut self, provider: &Provider) {
        self.named(Aspect::Type, provider.type_name);
        if let Some(registers) = provider.registers {
            self.list(Aspect::Registers, registers);
        }
        self.needs(Aspect::Register, provider.register);
        self.needs(Aspect::Start, provider.start);
        self.list(Aspect::After, provider.after);
    }

    fn entry(&mut self, entry: &Entry) {
        if let Some(at) = entry.at {
            let value = name(self.wiring.text(at));
            self.add(Aspect::At, "", value, None);
        }
        self.named(Aspect::Type, entry.type_name);
        self.named(Aspect::Lifetime, entry.lifetime);
        self.needs(Aspect::Need, entry.needs);
    }
}

fn aim(wiring: &Wiring, need: &Need) -> Aim {
    let owned = |name: Name| wiring.text(name).to_owned();
    match need.target {
        Target::Service(id) => Aim::Service(owned(id)),
        Target::Contract(contract) => Aim::Contract(owned(contract), need.key.map(|key| owned(key.name))),
        Target::All(contract) => Aim::All(owned(contract)),
        Target::Tag(tag) => Aim::Tag(owned(tag)),
        Target::Setting(setting) => Aim::Setting(owned(setting)),
        Target::Wrapped => Aim::Wrapped,
    }
}
