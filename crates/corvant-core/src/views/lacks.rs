//! Lacks: what is needed and not found, gathered by name.

use super::doubts::Doubts;
use super::focus::Focus;
use super::references::{TAKEN_AS_MODEL, missing_references};
use crate::facts::{Named, Setting, SuppliedKind, Target, Via};
use crate::finding::Origin;
use crate::graph::{Graph, Node, What};
use crate::index::{EntryIndex, ProviderIndex, QuestionIndex, TroubleIndex};
use crate::name::Name;
use crate::near::{Likeness, meanings};
use crate::resolve::{Met, Resolution};
use crate::source::{SourceIndex, Span};
use crate::wiring::{NeedIndex, ServiceIndex, Wiring, needs_of};
use foldhash::{HashMap, HashSet, HashSetExt};

/// What is sought in vain.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(crate) enum Sought {
    /// A service by id.
    Service(Name),
    /// A contract that nothing offers.
    Contract(Name),
    /// A key of a contract that is offered under others.
    Key(Name, Name),
    /// A setting without a value.
    Setting(Name),
    /// A contract, or a key of it, that several claim: the number of the question.
    Question(QuestionIndex),
    /// What a service wraps, which wraps nothing: the node that has the need.
    Wrapped(Node),
}

/// One place that asks for it.
#[derive(Clone, Debug)]
pub(crate) struct Use {
    /// The file.
    pub source: SourceIndex,
    /// The text that asks.
    pub span: Span,
    /// How it asks: "needed here by timetable.board".
    pub role: String,
    /// The key that is asked for, if any.
    pub key: Option<Name>,
    /// Whether it is found by look-up at run time.
    pub look_up: bool,
    /// Where the effect begins, if something is built by it.
    pub origin: Option<Origin>,
}

/// One thing that is sought in vain, with all that seek it.
#[derive(Debug)]
pub(crate) struct Lack {
    /// What it is.
    pub sought: Sought,
    /// Who seeks it, in the order of the files.
    pub uses: Vec<Use>,
    /// What it was probably meant to be.
    pub meant: Option<Meaning>,
    /// The trouble (by number in the facts) behind which it may be defined.
    pub hidden_by: Option<TroubleIndex>,
}

/// What a name that is not known was probably meant to be.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Meaning {
    /// The name.
    pub name: Name,
    /// How much alike the two are.
    pub likeness: Likeness,
}

impl Lack {
    /// What it was meant to be, if but a few letters part it from that. Keys are left out: under another key of the
    /// same contract there may well be another thing.
    pub(crate) fn misspelt(&self) -> Option<Name> {
        let is_key = matches!(self.sought, Sought::Key(..));
        self.meant.filter(|_| !is_key).filter(|meant| meant.likeness.is_misspelt()).map(|meant| meant.name)
    }
}

/// All lacks of one stage, in the order of their first uses.
#[derive(Debug, Default)]
pub(crate) struct Lacks {
    /// One for each thing sought.
    pub all: Vec<Lack>,
    /// Ids that providers register and nothing defines, each with what it was probably meant to be. Those
    /// of one stage are those of all.
    pub(crate) promised: HashMap<Name, Option<Meaning>>,
    by_sought: HashMap<Sought, usize>,
    /// Needs that seek something behind an alias: the alias is to blame, and told before them.
    behind_aliases: Vec<(Sought, Use)>,
}

impl Lacks {
    /// All lacks of a stage.
    pub(crate) fn new(wiring: &Wiring, resolution: &Resolution, graph: &Graph, doubts: &Doubts) -> Self {
        let mut lacks = Self::default();
        let services = (0..wiring.facts.services.len() as u32).map(ServiceIndex);
        let entries = (0..wiring.facts.entries.len()).map(|entry| graph.entry(EntryIndex::new(entry)));
        let providers =
            (0..wiring.facts.providers.len()).map(|provider| graph.provider(ProviderIndex::new(provider)));
        lacks.gather_needs(wiring, resolution, graph, services.clone(), entries.chain(providers));
        lacks.gather_references(wiring, resolution, services);
        lacks.gather_settings(wiring, resolution, wiring.facts.settings.iter());
        lacks.find_hidden(doubts);
        let promised = empty_promises(wiring, resolution, doubts);
        lacks.find_meanings(wiring, resolution, promised);
        lacks
    }

    /// The lacks of what is in focus. What is lacked in `base` too means what it means there.
    pub(super) fn focused(
        wiring: &Wiring,
        resolution: &Resolution,
        graph: &Graph,
        doubts: &Doubts,
        focus: &Focus,
        base: &Self,
    ) -> Self {
        let mut lacks = Self::default();
        let services = focus.services.iter().copied();
        lacks.gather_needs(wiring, resolution, graph, services.clone(), focus.others.iter().copied());
        lacks.gather_references(wiring, resolution, services);
        let settings = focus.settings.iter().map(|&number| &wiring.facts.settings[number as usize]);
        lacks.gather_settings(wiring, resolution, settings);
        lacks.find_hidden(doubts);
        let known = |lack: &Lack| match lack.sought {
            Sought::Question(_) => None,
            sought => base.by_sought.get(&sought).map(|&known| base.all[known].meant),
        };
        let meanings: Vec<Option<Option<Meaning>>> = lacks.all.iter().map(known).collect();
        if meanings.iter().any(Option::is_none) {
            lacks.find_meanings(wiring, resolution, Vec::new());
        }
        for (lack, meant) in lacks.all.iter_mut().zip(meanings) {
            lack.meant = meant.unwrap_or(lack.meant);
        }
        lacks
    }

    fn find_hidden(&mut self, doubts: &Doubts) {
        for lack in &mut self.all {
            lack.hidden_by = match lack.sought {
                Sought::Service(name) | Sought::Setting(name) => doubts.hides(name),
                Sought::Contract(name) => doubts.mentions(name),
                Sought::Key(contract, key) => doubts.mentions(contract).and(doubts.mentions(key)),
                Sought::Question(_) | Sought::Wrapped(_) => None,
            };
        }
    }

    /// Whether something is sought in vain.
    pub(super) fn has(&self, sought: Sought) -> bool {
        self.by_sought.contains_key(&sought)
    }

    /// Who asks a question that nothing settles.
    pub(crate) fn question(&self, number: QuestionIndex) -> Option<&Lack> {
        self.by_sought.get(&Sought::Question(number)).map(|&lack| &self.all[lack])
    }

    fn add(&mut self, sought: Sought, used: Use) {
        let number = *self.by_sought.entry(sought).or_insert_with(|| {
            self.all.push(Lack { sought, uses: Vec::new(), meant: None, hidden_by: None });
            self.all.len() - 1
        });
        self.all[number].uses.push(used);
    }

    fn gather_needs(
        &mut self,
        wiring: &Wiring,
        resolution: &Resolution,
        graph: &Graph,
        services: impl Iterator<Item = ServiceIndex>,
        others: impl Iterator<Item = Node>,
    ) {
        for index in services.filter(|&index| resolution.ids.has_needs(wiring, index)) {
            let service = wiring.service(index);
            for need in service.needs.range() {
                self.need(wiring, resolution, need, Graph::service(index), service.id.name);
            }
        }
        for node in others {
            let id = match graph.what(node) {
                What::Entry(entry) => wiring.facts.entries[entry.index()].id.name,
                What::Provider(provider) => wiring.facts.providers[provider.index()].id.name,
                _ => continue,
            };
            for need in needs_of(wiring, node).into_iter().flatten() {
                self.need(wiring, resolution, need, node, id);
            }
        }
    }

    fn need(&mut self, wiring: &Wiring, resolution: &Resolution, number: usize, holder: Node, id: Name) {
        let need = &wiring.facts.parts.needs[number];
        let sought = match (resolution.met(NeedIndex(number as u32)), need.target, need.key) {
            (Met::Missing, Target::Wrapped, _) => Sought::Wrapped(holder),
            // Behind an alias it is what that stands for.
            (Met::Missing, Target::Service(id), _) => {
                Sought::Service(resolution.ids.dead_end(id).unwrap_or(id))
            }
            (Met::Missing, Target::Contract(contract) | Target::All(contract), _) => {
                Sought::Contract(contract)
            }
            (Met::Missing, Target::Setting(setting), _) => Sought::Setting(setting),
            (Met::MissingKey, Target::Contract(contract), Some(key)) => Sought::Key(contract, key.name),
            (Met::Ambiguous(question), ..) => Sought::Question(question),
            _ => return,
        };
        let span = match (sought, need.key) {
            (Sought::Key(..), Some(key)) => key.span,
            _ => need.span,
        };
        let role = format!("needed here by {}", wiring.text(id));
        let origin = Some(Origin { node: holder, while_building: !need.lazy });
        let key = need.key.map(|key| key.name);
        let used = Use { source: need.source, span, role, key, look_up: need.via == Via::LookUp, origin };
        if matches!((sought, need.target), (Sought::Service(sought), Target::Service(asked)) if sought != asked)
        {
            self.behind_aliases.push((sought, used));
        } else {
            self.add(sought, used);
        }
    }

    /// Definitions that name others: aliases, wrappers, replacements, models, collectors.
    fn gather_references(
        &mut self,
        wiring: &Wiring,
        resolution: &Resolution,
        services: impl Iterator<Item = ServiceIndex>,
    ) {
        for index in services.filter(|&index| resolution.ids.is_audited(index)) {
            let service = wiring.service(index);
            for (target, verb) in missing_references(wiring, resolution, service) {
                let role = format!("{verb} here by {}", wiring.text(service.id.name));
                let origin = Some(Origin { node: Graph::service(index), while_building: true });
                let (source, span) = (service.source, target.span);
                let used = Use { source, span, role, key: None, look_up: false, origin };
                self.add(Sought::Service(target.name), used);
            }
        }
        for (sought, used) in std::mem::take(&mut self.behind_aliases) {
            self.add(sought, used);
        }
        for tag in &wiring.facts.tags {
            let Some(by) = tag.collected_by else { continue };
            if !resolution.ids.is_defined(by.name) && !resolution.is_supplied(SuppliedKind::Service, by.name)
            {
                let role = format!("named here as the collector of {}", wiring.text(tag.tag.name));
                let used =
                    Use { source: tag.source, span: by.span, role, key: None, look_up: false, origin: None };
                self.add(Sought::Service(by.name), used);
            }
        }
    }

    /// Settings that other settings' values refer to, and required ones without a value.
    fn gather_settings<'a>(
        &mut self,
        wiring: &Wiring,
        resolution: &Resolution,
        settings: impl Iterator<Item = &'a Setting>,
    ) {
        use crate::resolve::Value;
        let facts = &wiring.facts;
        let lacking = |name: Name| {
            let given = matches!(resolution.setting(name), Some(Value::Given | Value::LeftToStages));
            !given && !resolution.is_supplied(SuppliedKind::Setting, name)
        };
        for setting in settings {
            let value = wiring.declared.value(facts, setting, resolution.stage);
            let references = value.into_iter().flat_map(|(_, references)| references.of(&facts.parts));
            for reference in references.filter(|reference| lacking(reference.name)) {
                self.setting(wiring, setting.source, *reference, "referred to here by", setting.setting.name);
            }
            let is_absent = resolution.setting(setting.setting.name) == Some(Value::Absent)
                && !resolution.is_supplied(SuppliedKind::Setting, setting.setting.name);
            if setting.required && is_absent {
                let role = "required here".to_owned();
                let used = Use {
                    source: setting.source,
                    span: setting.setting.span,
                    role,
                    key: None,
                    look_up: false,
                    origin: None,
                };
                self.add(Sought::Setting(setting.setting.name), used);
            }
        }
    }

    fn setting(&mut self, wiring: &Wiring, source: SourceIndex, target: Named, role: &str, by: Name) {
        let role = format!("{role} {}", wiring.text(by));
        self.add(
            Sought::Setting(target.name),
            Use { source, span: target.span, role, key: None, look_up: false, origin: None },
        );
    }

    /// For each lack, and each of some promised ids, the known name of its kind that is closest, in whatever
    /// stage that is known.
    fn find_meanings(&mut self, wiring: &Wiring, resolution: &Resolution, promised: Vec<Name>) {
        let facts = &wiring.facts;
        let ids = || {
            let supplied = facts.supplied.iter().filter(|name| name.kind == SuppliedKind::Service);
            let services = facts.services.iter().filter(|service| !service.template);
            services.map(|service| service.id.name).chain(supplied.map(|name| name.name.name)).collect()
        };
        let contracts = || {
            let services = facts.services.iter().filter(|service| service.may_be_built());
            let offered = services.flat_map(|service| service.offers.of(&facts.parts));
            let supplied = facts.supplied.iter().filter(|name| name.kind == SuppliedKind::Contract);
            distinct(offered.map(|offer| offer.name).chain(supplied.map(|name| name.name.name)))
        };
        let settings = || distinct(facts.settings.iter().map(|setting| setting.setting.name));
        let mut promised: Vec<(Name, Option<Meaning>)> = promised.into_iter().map(|id| (id, None)).collect();
        self.find_meaning(wiring, ids, &mut promised, |sought| match sought {
            Sought::Service(name) => Some(name),
            _ => None,
        });
        self.promised = promised.into_iter().collect();
        self.find_models(wiring);
        self.find_meaning(wiring, contracts, &mut [], |sought| match sought {
            Sought::Contract(name) => Some(name),
            _ => None,
        });
        self.find_meaning(wiring, settings, &mut [], |sought| match sought {
            Sought::Setting(name) => Some(name),
            _ => None,
        });
        // All keys of a contract that are missing are held against those that are there at once.
        let mut by_contract: HashMap<Name, Vec<usize>> = HashMap::default();
        for (number, lack) in self.all.iter().enumerate() {
            if let Sought::Key(contract, _) = lack.sought {
                by_contract.entry(contract).or_default().push(number);
            }
        }
        for (contract, lacks) in by_contract {
            let keys = keys_of(wiring, resolution, contract);
            let known: Vec<&str> = keys.iter().map(|&key| wiring.text(key)).collect();
            let wanted = lacks.iter().map(|&lack| match self.all[lack].sought {
                Sought::Key(_, key) => wiring.text(key),
                _ => "",
            });
            for (&lack, meant) in lacks.iter().zip(meanings(&wanted.collect::<Vec<_>>(), &known)) {
                self.all[lack].meant =
                    meant.map(|meant| Meaning { name: keys[meant.known], likeness: meant.likeness });
            }
        }
    }

    /// What is only taken as a model may have been meant to be a template.
    fn find_models(&mut self, wiring: &Wiring) {
        let is_model = |lack: &&mut Lack| {
            lack.meant.is_none()
                && lack.hidden_by.is_none()
                && matches!(lack.sought, Sought::Service(_))
                && lack.uses.iter().all(|used| used.role.starts_with(TAKEN_AS_MODEL))
        };
        let lacks: Vec<&mut Lack> = self.all.iter_mut().filter(is_model).collect();
        if lacks.is_empty() {
            return;
        }
        let templates = wiring.facts.services.iter().filter(|service| service.template);
        let known = distinct(templates.map(|service| service.id.name));
        let texts: Vec<&str> = known.iter().map(|&name| wiring.text(name)).collect();
        let wanted = lacks.iter().map(|lack| match lack.sought {
            Sought::Service(name) => wiring.text(name),
            _ => "",
        });
        let found = meanings(&wanted.collect::<Vec<_>>(), &texts);
        for (lack, found) in lacks.into_iter().zip(found) {
            lack.meant = found.map(|found| Meaning { name: known[found.known], likeness: found.likeness });
        }
    }

    /// Finds what names of one kind were meant to be: those of lacks, and others that are looked for with them.
    fn find_meaning(
        &mut self,
        wiring: &Wiring,
        known: impl Fn() -> Vec<Name>,
        others: &mut [(Name, Option<Meaning>)],
        name: impl Fn(Sought) -> Option<Name>,
    ) {
        let is_open = |lack: &&mut Lack| lack.hidden_by.is_none();
        let of_lacks = self.all.iter_mut().filter(is_open);
        let of_lacks = of_lacks.filter_map(|lack| Some((name(lack.sought)?, &mut lack.meant)));
        let of_others = others.iter_mut().map(|(name, meant)| (*name, meant));
        let (wanted, meant): (Vec<Name>, Vec<_>) = of_lacks.chain(of_others).unzip();
        if wanted.is_empty() {
            return;
        }
        let known = known();
        let texts = |names: &[Name]| names.iter().map(|&name| wiring.text(name)).collect::<Vec<&str>>();
        let found = meanings(&texts(&wanted), &texts(&known));
        for ((wanted, meant), found) in wanted.into_iter().zip(meant).zip(found) {
            // A name may be declared and still lack its value: it is not a misspelling of itself.
            let found = found.filter(|found| known[found.known] != wanted);
            *meant = found.map(|found| Meaning { name: known[found.known], likeness: found.likeness });
        }
    }
}

/// Ids that providers register and nothing defines in any stage.
fn empty_promises(wiring: &Wiring, resolution: &Resolution, doubts: &Doubts) -> Vec<Name> {
    let registered = wiring.facts.providers.iter().filter_map(|provider| provider.registers);
    let ids = registered.flat_map(|registers| registers.of(&wiring.facts.parts)).map(|id| id.name);
    let is_empty = |&id: &Name| {
        !wiring.is_defined_anywhere(id)
            && !resolution.is_supplied(SuppliedKind::Service, id)
            && doubts.hides(id).is_none()
    };
    distinct(ids.filter(is_empty))
}

fn distinct(names: impl Iterator<Item = Name>) -> Vec<Name> {
    let mut seen = HashSet::new();
    names.filter(|&name| seen.insert(name)).collect()
}

/// The keys under which a contract is offered, in the order of the definitions.
pub(crate) fn keys_of(wiring: &Wiring, resolution: &Resolution, contract: Name) -> Vec<Name> {
    let offers = resolution.offers(wiring, contract, None);
    distinct(offers.all().filter_map(|offer| wiring.service(offer.by).key).map(|key| key.name))
}
