//! What the files say, with texts in place of numbers: disabled modules left out, models copied in.

use corvant_core::facts::{Facts, Many, Named, Scalar, SourceKind, SuppliedKind, Target, TroubleKind, Via};
use corvant_core::name::{Name, Names};
use corvant_core::source::Span;
use corvant_core::wiring::{Policy, SameId};
use corvant_read::workspace::Workspace;
use std::collections::{BTreeMap, BTreeSet};

/// What a need is aimed at.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(crate) enum Aim {
    Service(String),
    Contract(String, Option<String>),
    All(String),
    Tag(String),
    Setting(String),
    Wrapped,
}

/// One dependency. What several inherit is written once: in one file, at one place.
#[derive(Clone, PartialEq, Debug)]
pub(crate) struct Need {
    pub(crate) file: usize,
    pub(crate) at: Span,
    pub(crate) slot: String,
    pub(crate) aim: Aim,
    pub(crate) via: Via,
    pub(crate) method: Option<String>,
    pub(crate) optional: bool,
    pub(crate) lazy: bool,
}

impl Need {
    pub(crate) fn is_for_building(&self) -> bool {
        !self.lazy && matches!(self.via, Via::Constructor | Via::Factory)
    }
}

pub(super) type Attributes = BTreeMap<String, (String, Scalar)>;

/// A service definition, with what it inherits.
#[derive(Clone, Debug, Default)]
pub(crate) struct Definition {
    pub(crate) file: usize,
    pub(crate) id: String,
    pub(crate) type_name: Option<String>,
    pub(crate) offers: Vec<String>,
    pub(crate) key: Option<String>,
    pub(crate) default: bool,
    pub(crate) lifetime: Option<String>,
    pub(crate) internal: bool,
    pub(crate) needs: Vec<Need>,
    pub(crate) own_needs: Vec<Need>,
    pub(crate) tags: Vec<(String, Attributes)>,
    pub(crate) own_tags: Vec<(String, Attributes)>,
    pub(crate) stages: Vec<String>,
    pub(crate) except: Vec<String>,
    pub(crate) template: bool,
    pub(crate) like: Option<String>,
    pub(crate) alias_of: Option<String>,
    pub(crate) wraps: Option<String>,
    pub(crate) replaces: Option<String>,
    pub(crate) installed: Option<String>,
    /// The type that an installation must list.
    pub(crate) checked_type: Option<String>,
}

impl Definition {
    pub(crate) fn overrides_itself(&self) -> bool {
        self.replaces.as_ref() == Some(&self.id)
    }

    pub(crate) fn may_be_built(&self) -> bool {
        self.alias_of.is_none() && !self.template
    }
}

#[derive(Clone, Debug)]
pub(crate) struct Entry {
    pub(crate) id: String,
    pub(crate) lifetime: Option<String>,
    pub(crate) needs: Vec<Need>,
}

#[derive(Clone, Debug)]
pub(crate) struct Provider {
    pub(crate) file: usize,
    pub(crate) id: String,
    pub(crate) registers: Option<Vec<String>>,
    pub(crate) register: Vec<Need>,
    pub(crate) start: Vec<Need>,
    pub(crate) after: Vec<String>,
}

/// What a tag's declarations say together, and each alone where that matters.
#[derive(Clone, Debug, Default)]
pub(crate) struct Tag {
    pub(crate) contracts: Vec<String>,
    pub(crate) said_contracts: Vec<(usize, String)>,
    pub(crate) carried_by_all: bool,
    pub(crate) collected_by: Vec<(usize, String)>,
    pub(crate) at_least: Vec<u32>,
    pub(crate) attributes: Vec<BTreeMap<String, Rule>>,
    pub(crate) files: Vec<usize>,
}

#[derive(Clone, PartialEq, Debug)]
pub(crate) struct Rule {
    pub(crate) kind: Option<Scalar>,
    pub(crate) required: bool,
    pub(crate) unique: bool,
    pub(crate) one_of: BTreeSet<String>,
    pub(crate) order: usize,
}

#[derive(Clone, Debug)]
pub(crate) struct Setting {
    pub(crate) file: usize,
    pub(crate) name: String,
    pub(crate) value: Option<(String, Vec<String>)>,
    pub(crate) stages: Vec<(String, String, Vec<String>)>,
    pub(crate) required: bool,
}

#[derive(Clone, Debug, Default)]
pub(crate) struct File {
    pub(crate) module: Option<String>,
    pub(crate) is_workspace: bool,
    pub(crate) uses_given: bool,
    pub(crate) uses: Vec<String>,
    pub(crate) folder: String,
    /// Words of it that could not be read, and those of them that stand where a definition's id would.
    pub(crate) mentions: BTreeSet<String>,
    pub(crate) may_define: BTreeSet<String>,
    /// Not even its words are known.
    pub(crate) is_opaque: bool,
}

#[derive(Clone, Debug)]
pub(crate) struct Expectation {
    pub(crate) file: usize,
    pub(crate) service: Option<String>,
    pub(crate) contract: Option<String>,
    pub(crate) key: Option<String>,
    pub(crate) met_by: Option<String>,
    pub(crate) type_name: Option<String>,
    pub(crate) lifetime: Option<String>,
}

#[derive(Clone, Debug)]
pub(crate) struct Choice {
    pub(crate) file: usize,
    pub(crate) contract: String,
    pub(crate) key: Option<String>,
    pub(crate) service: String,
    pub(crate) stage: Option<String>,
}

/// What a declaration of a contract says: its file, what it extends, what it is meant for, its keys.
pub(super) type ContractSaid = (usize, Vec<String>, Option<String>, BTreeSet<String>);

/// All that a workspace says.
#[derive(Clone, Debug, Default)]
pub(crate) struct Model {
    pub(crate) files: Vec<File>,
    pub(crate) definitions: Vec<Definition>,
    /// The same without what they inherit.
    written: Vec<Definition>,
    pub(crate) entries: Vec<(usize, Entry)>,
    pub(crate) providers: Vec<Provider>,
    pub(crate) tags: BTreeMap<String, Tag>,
    pub(crate) contracts: BTreeMap<String, Vec<ContractSaid>>,
    pub(crate) settings: Vec<Setting>,
    pub(crate) choices: Vec<Choice>,
    pub(crate) rosters: Vec<(Option<String>, Vec<String>)>,
    pub(crate) supplied: BTreeSet<(u8, String)>,
    pub(crate) expectations: Vec<Expectation>,
    pub(crate) disabled: BTreeSet<String>,
    pub(crate) dormant: BTreeSet<String>,
    pub(crate) stages: BTreeSet<String>,
    /// The types that installations list.
    pub(crate) types: BTreeSet<String>,
    /// What is accepted: rule, subject, last day.
    pub(crate) allowances: Vec<(String, String, Option<String>)>,
    pub(crate) rules_off: BTreeSet<String>,
    pub(crate) policy: Policy,
}

/// A number for each kind of supplied name.
pub(super) fn kind(kind: SuppliedKind) -> u8 {
    kind as u8
}

struct Read<'a> {
    names: &'a Names,
    facts: &'a Facts,
    file: usize,
}

impl Read<'_> {
    fn text(&self, name: Name) -> String {
        self.names.text(name).to_owned()
    }

    fn maybe(&self, named: Option<Named>) -> Option<String> {
        named.map(|named| self.text(named.name))
    }

    fn all(&self, many: Many<Named>) -> Vec<String> {
        many.of(&self.facts.parts).iter().map(|named| self.text(named.name)).collect()
    }

    fn needs(&self, needs: Many<corvant_core::facts::Need>) -> Vec<Need> {
        let need = |need: &corvant_core::facts::Need| Need {
            file: self.file,
            at: need.span,
            slot: self.text(need.slot.name),
            aim: match need.target {
                Target::Service(id) => Aim::Service(self.text(id)),
                Target::Contract(contract) => Aim::Contract(self.text(contract), self.maybe(need.key)),
                Target::All(contract) => Aim::All(self.text(contract)),
                Target::Tag(tag) => Aim::Tag(self.text(tag)),
                Target::Setting(setting) => Aim::Setting(self.text(setting)),
                Target::Wrapped => Aim::Wrapped,
            },
            via: need.via,
            method: need.method.map(|method| self.text(method.name)),
            optional: need.optional,
            lazy: need.lazy,
        };
        needs.of(&self.facts.parts).iter().map(need).collect()
    }

    fn definition(&self, service: &corvant_core::facts::Service) -> Definition {
        let needs = self.needs(service.needs);
        let taggings = service.taggings.of(&self.facts.parts).iter().map(|tagging| {
            let given = tagging.attributes.of(&self.facts.parts).iter();
            let value = |name: Name, kind| (self.text(name), kind);
            let given = given.map(|one| (self.text(one.attribute.name), value(one.value.name, one.kind)));
            (self.text(tagging.tag.name), given.collect())
        });
        let tags: Vec<(String, Attributes)> = taggings.collect();
        Definition {
            file: self.file,
            id: self.text(service.id.name),
            type_name: self.maybe(service.type_name),
            offers: self.all(service.offers),
            key: self.maybe(service.key),
            default: service.is_default,
            lifetime: self.maybe(service.lifetime),
            internal: service.internal,
            own_needs: needs.clone(),
            needs,
            own_tags: tags.clone(),
            tags,
            stages: self.all(service.stages),
            except: self.all(service.except),
            template: service.template,
            like: self.maybe(service.like),
            alias_of: self.maybe(service.alias_of),
            wraps: self.maybe(service.wraps),
            replaces: self.maybe(service.replaces),
            installed: service.of_standard.installed.map(|place| self.text(place)),
            checked_type: self.maybe(service.type_name.filter(|_| service.of_standard.type_place.is_some())),
        }
    }

    fn tag(&self, tag: &corvant_core::facts::Tag, known: &mut Tag) {
        known.files.push(self.file);
        known.contracts.extend(self.maybe(tag.contract));
        known.said_contracts.extend(self.maybe(tag.contract).map(|contract| (self.file, contract)));
        known.carried_by_all |= tag.carried_by_all;
        known.collected_by.extend(self.maybe(tag.collected_by).map(|by| (self.file, by)));
        known.at_least.extend(Some(tag.at_least).filter(|&least| least > 0));
        known.attributes.extend(tag.attributes.map(|rules| {
            let rules = rules.of(&self.facts.parts).iter().enumerate().map(|(order, rule)| {
                let one_of = self.all(rule.one_of).into_iter().collect();
                let (kind, required, unique) = (rule.kind, rule.required, rule.unique);
                (self.text(rule.attribute.name), Rule { kind, required, unique, one_of, order })
            });
            rules.collect()
        }));
    }

    fn add_to(&self, model: &mut Model) {
        let facts = self.facts;
        model.definitions.extend(facts.services.iter().map(|service| self.definition(service)));
        model.entries.extend(facts.entries.iter().map(|entry| {
            let (id, lifetime) = (self.text(entry.id.name), self.maybe(entry.lifetime));
            (self.file, Entry { id, lifetime, needs: self.needs(entry.needs) })
        }));
        model.providers.extend(facts.providers.iter().map(|provider| Provider {
            file: self.file,
            id: self.text(provider.id.name),
            registers: provider.registers.map(|registers| self.all(registers)),
            register: self.needs(provider.register),
            start: self.needs(provider.start),
            after: self.all(provider.after),
        }));
        for tag in &facts.tags {
            self.tag(tag, model.tags.entry(self.text(tag.tag.name)).or_default());
        }
        for contract in &facts.contracts {
            let keys = self.all(contract.keys).into_iter().collect();
            let said = (
                self.file,
                self.all(contract.extends),
                contract.meant_for.map(|(meant, _)| meant.word().to_owned()),
                keys,
            );
            model.contracts.entry(self.text(contract.contract.name)).or_default().push(said);
        }
        model.settings.extend(facts.settings.iter().map(|setting| {
            let stages = setting.stages.of(&facts.parts).iter().map(|value| {
                let (stage, text) = (self.text(value.stage.name), self.text(value.value.name));
                (stage, text, self.all(value.references))
            });
            let value = setting.value.map(|value| (self.text(value.name), self.all(setting.references)));
            let (name, required) = (self.text(setting.setting.name), setting.required);
            Setting { file: self.file, name, value, stages: stages.collect(), required }
        }));
        model.choices.extend(facts.choices.iter().map(|choice| Choice {
            file: self.file,
            contract: self.text(choice.contract.name),
            key: self.maybe(choice.key),
            service: self.text(choice.service.name),
            stage: choice.stage.map(|stage| self.text(stage)),
        }));
        model.rosters.extend(
            facts
                .rosters
                .iter()
                .map(|roster| (roster.stage.map(|stage| self.text(stage)), self.all(roster.providers))),
        );
        let supplied = facts.supplied.iter().map(|one| (kind(one.kind), self.text(one.name.name)));
        model.supplied.extend(supplied);
        model.allowances.extend(
            facts.allowances.iter().map(|line| {
                (self.text(line.rule.name), self.text(line.subject.name), self.maybe(line.until))
            }),
        );
        model.expectations.extend(facts.expectations.iter().map(|line| Expectation {
            file: self.file,
            service: self.maybe(line.service),
            contract: self.maybe(line.contract),
            key: self.maybe(line.key),
            met_by: self.maybe(line.met_by),
            type_name: self.maybe(line.type_name),
            lifetime: self.maybe(line.lifetime),
        }));
        model.types.extend(facts.types.iter().map(|listed| self.text(listed.name)));
        model.stages.extend(facts.stages.iter().map(|stage| self.text(stage.name)));
    }
}

impl Model {
    /// What a workspace says that was read and not yet linked.
    pub(crate) fn new(workspace: &Workspace) -> Self {
        let mut model = Self { policy: workspace.policy.clone(), ..Self::default() };
        let rules = &workspace.policy.severities;
        let is_off = |rule: &&str| rules.get(*rule) == Some(&None);
        model.rules_off = rules.keys().copied().filter(is_off).map(str::to_owned).collect();
        let mut manifests: Vec<_> = workspace.manifests.iter().collect();
        manifests.sort_by(|one, other| one.source.path.cmp(&other.source.path));
        let text = |name: Name| workspace.names.text(name).to_owned();
        let disabled = manifests.iter().flat_map(|manifest| &manifest.facts.disabled);
        model.disabled = disabled.map(|(_, module)| text(module.name)).collect();
        for manifest in manifests {
            let module = manifest.header.module.map(|module| text(module.name));
            let is_dormant = module.as_ref().is_some_and(|module| model.disabled.contains(module));
            let file = model.files.len();
            if is_dormant {
                model.dormant.extend(module);
                model.files.push(File::default());
                continue;
            }
            let uses = manifest.facts.uses.iter().map(|(_, used)| text(used.name)).collect();
            let troubles = || manifest.facts.troubles.iter().map(|trouble| (trouble.kind, &trouble.unread));
            let words = |of: &Vec<Name>| of.iter().map(|&word| text(word)).collect::<Vec<_>>();
            model.files.push(File {
                module,
                is_workspace: manifest.header.kind == SourceKind::WorkspaceFile,
                uses_given: manifest.header.uses_given,
                uses,
                folder: manifest.source.path.rsplit_once('/').map_or("", |(folder, _)| folder).to_owned(),
                mentions: troubles().flat_map(|(_, unread)| words(&unread.mentions)).collect(),
                may_define: troubles().flat_map(|(_, unread)| words(&unread.defines)).collect(),
                is_opaque: troubles().any(|(kind, unread)| unread.opaque && kind == TroubleKind::Unreadable),
            });
            Read { names: &workspace.names, facts: &manifest.facts, file }.add_to(&mut model);
        }
        model.find_stages();
        model.inherit();
        model
    }

    fn find_stages(&mut self) {
        let limits = self.definitions.iter().flat_map(|one| [&one.stages[..], &one.except].concat());
        let values = self.settings.iter().flat_map(|one| one.stages.iter().map(|value| value.0.clone()));
        let choices = self.choices.iter().filter_map(|choice| choice.stage.clone());
        let rosters = self.rosters.iter().filter_map(|roster| roster.0.clone());
        let all: Vec<String> = limits.chain(values).chain(choices).chain(rosters).collect();
        self.stages.extend(all);
    }

    /// The definition that others take as their model, whatever its stages.
    pub(crate) fn model_of(&self, id: &str) -> Option<usize> {
        let all = || (0..self.definitions.len()).filter(|&at| self.definitions[at].id == id);
        let overriding: Vec<usize> = all().filter(|&at| self.definitions[at].overrides_itself()).collect();
        let among = if overriding.is_empty() { all().collect() } else { overriding };
        match self.policy.same_id {
            SameId::Last => among.last().copied(),
            _ => among.first().copied(),
        }
    }

    /// The models of a definition, nearest first; `None` where they lead into a cycle.
    pub(crate) fn models(&self, of: usize) -> Option<Vec<usize>> {
        let mut models = Vec::new();
        let mut at = of;
        while let Some(model) = self.definitions[at].like.as_ref().and_then(|like| self.model_of(like)) {
            if model == of || models.contains(&model) {
                return None;
            }
            models.push(model);
            at = model;
        }
        Some(models)
    }

    /// What the files would say without the definitions of an id.
    #[must_use]
    pub(crate) fn without(mut self, id: &str) -> Self {
        self.written.retain(|one| one.id != id);
        self.definitions.clone_from(&self.written);
        self.inherit();
        self
    }

    fn inherit(&mut self) {
        let written = self.definitions.clone();
        self.written.clone_from(&written);
        for at in 0..written.len() {
            for model in self.models(at).unwrap_or_default() {
                let model = &written[model];
                let own = &mut self.definitions[at];
                own.type_name = own.type_name.take().or_else(|| model.type_name.clone());
                own.key = own.key.take().or_else(|| model.key.clone());
                own.lifetime = own.lifetime.take().or_else(|| model.lifetime.clone());
                if own.offers.is_empty() {
                    own.offers.clone_from(&model.offers);
                }
                let fills = |own: &Need, need: &Need| {
                    own.slot == need.slot
                        && own.via == need.via
                        && (own.via == Via::Factory || own.method == need.method)
                };
                let needs = own.needs.clone();
                own.needs.extend(
                    model.needs.iter().filter(|need| !needs.iter().any(|own| fills(own, need))).cloned(),
                );
                let tags = own.tags.clone();
                own.tags.extend(
                    model.tags.iter().filter(|(tag, _)| !tags.iter().any(|(own, _)| own == tag)).cloned(),
                );
            }
        }
    }

    /// The module that a file belongs to.
    pub(crate) fn module(&self, file: usize) -> Option<&String> {
        self.files[file].module.as_ref()
    }

    /// All modules.
    pub(crate) fn modules(&self) -> BTreeSet<&String> {
        self.files.iter().filter_map(|file| file.module.as_ref()).collect()
    }

    /// Whether a word stands in what could not be read.
    pub(crate) fn mentions(&self, name: &str) -> bool {
        self.files.iter().any(|file| file.mentions.contains(name))
    }

    /// Whether something of a name may be defined in what could not be read.
    pub(crate) fn may_define(&self, name: &str) -> bool {
        self.files.iter().any(|file| file.may_define.contains(name))
    }

    /// Whether a file could not be read at all.
    pub(crate) fn is_opaque(&self) -> bool {
        self.files.iter().any(|file| file.is_opaque)
    }

    pub(crate) fn is_supplied(&self, of: SuppliedKind, name: &str) -> bool {
        self.supplied.contains(&(kind(of), name.to_owned()))
    }

    /// Where nothing is audited but stages: all of these, and none chosen unless one always is.
    pub(crate) fn views(&self) -> Vec<Option<String>> {
        let stages = self.stages.iter().cloned().map(Some);
        let none = !self.policy.stage_required || self.stages.is_empty();
        none.then_some(None).into_iter().chain(stages).collect()
    }
}
