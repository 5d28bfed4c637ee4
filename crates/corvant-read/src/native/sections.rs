//! The sections of a manifest other than its services.

use super::format;
use super::reader::Reader;
use crate::syntax::{NodeId, NodeKind};
use corvant_core::facts::{
    Allowance, AttributeRule, Choice, Contract, Entry, Expectation, Many, MeantFor, Named, Need, Provider,
    Roster, Scalar, Setting, StageValue, Supplied, SuppliedBy, SuppliedKind, Tag,
};
use corvant_core::name::Name;
use corvant_core::source::SourceIndex;

impl Reader<'_> {
    pub(super) fn version(&mut self, value: NodeId) {
        if self.tree.kind(value) != NodeKind::Integer {
            self.expected(value, "a version number");
        } else if self.tree.text(value) != format::VERSION {
            let found = self.tree.text(value);
            let message = format!("format version {found} is not known; this program reads version 1");
            self.wrong_shape(value, message, Some("write `corvant: 1`, or use a newer program".to_owned()));
        }
    }

    /// A free text for people; only its shape is looked at.
    pub(crate) fn about(&mut self, value: NodeId) {
        if matches!(self.tree.kind(value), NodeKind::List | NodeKind::Map) {
            self.expected(value, "text");
        }
    }

    pub(super) fn uses(&mut self, value: NodeId) {
        let names = self.names(value);
        let uses: Vec<_> =
            names.of(&self.facts.parts).iter().map(|&module| (SourceIndex::OWN, module)).collect();
        self.facts.uses.extend(uses);
    }

    pub(super) fn settings(&mut self, value: NodeId) {
        self.entries(value, |reader, setting, value| {
            let mut read = Setting {
                source: SourceIndex::OWN,
                setting,
                value: None,
                references: Many::default(),
                stages: Many::default(),
                required: false,
            };
            if reader.tree.kind(value) == NodeKind::Map {
                reader.fields(value, &format::SETTING, |reader, field, value| {
                    match field {
                        "value" => {
                            read.value = Some(reader.setting_value(value));
                            read.references = reader.references(value);
                        }
                        "stages" => read.stages = reader.stage_values(value),
                        "required" => read.required = reader.flag(value),
                        "about" => reader.about(value),
                        _ => return false,
                    }
                    true
                });
            } else {
                read.value = Some(reader.setting_value(value));
                read.references = reader.references(value);
            }
            reader.facts.settings.push(read);
        });
    }

    fn stage_values(&mut self, value: NodeId) -> Many<StageValue> {
        let start = self.facts.parts.stage_values.len();
        self.entries(value, |reader, stage, value| {
            let references = reader.references(value);
            let value = reader.setting_value(value);
            reader.facts.parts.stage_values.push(StageValue { stage, value, references });
        });
        Many::since(start, &self.facts.parts)
    }

    /// A value as a plain text, for others to be held against: of a list the texts in it.
    pub(super) fn setting_value(&mut self, value: NodeId) -> Named {
        if self.tree.kind(value) != NodeKind::List {
            return self.named(value);
        }
        let texts: Vec<&str> = self.tree.children(value).map(|item| self.tree.text(item)).collect();
        let name = self.interner.intern(&format!("[{}]", texts.join(", ")));
        Named { name, span: self.tree.span(value) }
    }

    /// The settings that a value refers to as `${name}`; in a list, those of its texts.
    pub(super) fn references(&mut self, value: NodeId) -> Many<Named> {
        let start = self.facts.parts.named.len();
        let tree = self.tree;
        let values: Vec<NodeId> = match tree.kind(value) {
            NodeKind::Text => vec![value],
            NodeKind::List => {
                tree.children(value).filter(|&item| tree.kind(item) == NodeKind::Text).collect()
            }
            NodeKind::Map => {
                self.expected(value, "a plain value or a list");
                Vec::new()
            }
            _ => Vec::new(),
        };
        for value in values {
            let text = tree.text(value);
            let mut from = 0;
            while let Some(open) = text[from..].find("${") {
                let name_start = from + open + 2;
                let Some(length) = text[name_start..].find('}') else { break };
                let name_end = name_start + length;
                from = name_end + 1;
                if length > 0 {
                    let name = self.interner.intern(&text[name_start..name_end]);
                    let span = tree.part(value, name_start..name_end);
                    self.facts.parts.named.push(Named { name, span });
                }
            }
        }
        Many::since(start, &self.facts.parts)
    }

    pub(super) fn contracts(&mut self, value: NodeId) {
        self.entries(value, |reader, contract, value| {
            let mut read = Contract {
                source: SourceIndex::OWN,
                contract,
                extends: Many::default(),
                meant_for: None,
                keys: Many::default(),
            };
            reader.fields(value, &format::CONTRACT, |reader, field, value| {
                match field {
                    "about" => reader.about(value),
                    "extends" => read.extends = reader.names(value),
                    "meant-for" => {
                        let word = reader.word(value, format::MEANT_FOR);
                        let meant = MeantFor::of(reader.tree.text(value));
                        read.meant_for = meant.zip(word.map(|word| word.span));
                    }
                    "keys" => read.keys = reader.names(value),
                    _ => return false,
                }
                true
            });
            reader.facts.contracts.push(read);
        });
    }

    pub(super) fn tags(&mut self, value: NodeId) {
        self.entries(value, |reader, tag, value| {
            let mut read = Tag {
                source: SourceIndex::OWN,
                tag,
                contract: None,
                carried_by_all: false,
                collected_by: None,
                at_least: 0,
                attributes: None,
            };
            reader.fields(value, &format::TAG, |reader, field, value| {
                match field {
                    "about" => reader.about(value),
                    "contract" => read.contract = reader.name(value),
                    "carried-by-all" => read.carried_by_all = reader.flag(value),
                    "collected-by" => read.collected_by = reader.name(value),
                    "at-least" => read.at_least = reader.count(value).unwrap_or(0),
                    "attributes" => read.attributes = Some(reader.attribute_rules(value)),
                    _ => return false,
                }
                true
            });
            reader.facts.tags.push(read);
        });
    }

    fn attribute_rules(&mut self, value: NodeId) -> Many<AttributeRule> {
        let start = self.facts.parts.attribute_rules.len();
        self.entries(value, |reader, attribute, value| {
            let mut read = AttributeRule {
                attribute,
                kind: None,
                required: false,
                unique: false,
                one_of: Many::default(),
            };
            reader.fields(value, &format::ATTRIBUTE, |reader, field, value| {
                match field {
                    "about" => reader.about(value),
                    "kind" => read.kind = reader.scalar_kind(value),
                    "required" => read.required = reader.flag(value),
                    "unique" => read.unique = reader.flag(value),
                    "one-of" => read.one_of = reader.plain_values(value),
                    _ => return false,
                }
                true
            });
            reader.facts.parts.attribute_rules.push(read);
        });
        Many::since(start, &self.facts.parts)
    }

    fn scalar_kind(&mut self, value: NodeId) -> Option<Scalar> {
        let words = Scalar::ALL.map(Scalar::word);
        self.word(value, &words)?;
        Scalar::of(self.tree.text(value))
    }

    /// A list of plain values of any kind.
    fn plain_values(&mut self, value: NodeId) -> Many<Named> {
        let start = self.facts.parts.named.len();
        self.items(value, |reader, item| {
            if matches!(reader.tree.kind(item), NodeKind::List | NodeKind::Map) {
                reader.expected(item, "a plain value");
            } else {
                let named = reader.named(item);
                reader.facts.parts.named.push(named);
            }
        });
        Many::since(start, &self.facts.parts)
    }

    pub(super) fn choices(&mut self, value: NodeId) {
        self.entries(value, |reader, contract, value| {
            reader.fields(value, &format::CHOICE, |reader, field, value| {
                if field == "stages" {
                    reader.entries(value, |reader, stage, value| {
                        reader.fields(value, &format::STAGE_CHOICE, |reader, field, value| {
                            reader.choice(contract, Some(stage.name), field, value)
                        });
                    });
                    return true;
                }
                reader.choice(contract, None, field, value)
            });
        });
    }

    fn choice(&mut self, contract: Named, stage: Option<Name>, field: &str, value: NodeId) -> bool {
        let choice =
            |key, service| Choice { source: SourceIndex::OWN, contract, key, service, holder: None, stage };
        match field {
            "default" => {
                let service = self.name(value);
                self.facts.choices.extend(service.map(|service| choice(None, service)));
            }
            "keys" => self.entries(value, |reader, key, value| {
                let service = reader.name(value);
                reader.facts.choices.extend(service.map(|service| choice(Some(key), service)));
            }),
            _ => return false,
        }
        true
    }

    pub(super) fn providers(&mut self, value: NodeId) {
        self.entries(value, |reader, id, value| {
            let mut read = Provider {
                source: SourceIndex::OWN,
                id,
                type_name: None,
                registers: None,
                register: Many::default(),
                start: Many::default(),
                after: Many::default(),
            };
            reader.fields(value, &format::PROVIDER, |reader, field, value| {
                match field {
                    "about" => reader.about(value),
                    "type" => read.type_name = reader.name(value),
                    "registers" => read.registers = Some(reader.names(value)),
                    "register" => read.register = reader.phase(value),
                    "start" => read.start = reader.phase(value),
                    "after" => read.after = reader.names(value),
                    _ => return false,
                }
                true
            });
            reader.facts.providers.push(read);
        });
    }

    fn phase(&mut self, value: NodeId) -> Many<Need> {
        let mut needs = Many::default();
        self.fields(value, &format::PHASE, |reader, field, value| {
            if field == "needs" {
                needs = reader.needs(value);
            }
            field == "needs"
        });
        needs
    }

    /// One roster for all stages, or one for each.
    pub(super) fn roster(&mut self, value: NodeId) {
        if self.tree.kind(value) == NodeKind::Map {
            self.entries(value, |reader, stage, value| reader.one_roster(Some(stage.name), value));
        } else {
            self.one_roster(None, value);
        }
    }

    fn one_roster(&mut self, stage: Option<Name>, value: NodeId) {
        let before = self.reported;
        let providers = self.names(value);
        let is_whole = self.reported == before;
        self.facts.rosters.push(Roster { source: SourceIndex::OWN, stage, is_whole, providers });
    }

    pub(super) fn entries_section(&mut self, value: NodeId) {
        self.entries(value, |reader, id, value| {
            let mut read = Entry {
                source: SourceIndex::OWN,
                id,
                type_name: None,
                at: None,
                lifetime: None,
                needs: Many::default(),
                is_look_up: false,
            };
            reader.fields(value, &format::ENTRY, |reader, field, value| {
                match field {
                    "about" => reader.about(value),
                    "type" => read.type_name = reader.name(value),
                    "at" => read.at = reader.name(value).map(|at| at.name),
                    "lifetime" => read.lifetime = reader.name(value),
                    "needs" => read.needs = reader.needs(value),
                    _ => return false,
                }
                true
            });
            reader.facts.entries.push(read);
        });
    }

    pub(super) fn supplied(&mut self, value: NodeId) {
        self.fields(value, &format::SUPPLIED, |reader, field, value| {
            let kind = match field {
                "services" => SuppliedKind::Service,
                "contracts" => SuppliedKind::Contract,
                "settings" => SuppliedKind::Setting,
                "tags" => SuppliedKind::Tag,
                _ => return false,
            };
            let names = reader.names(value);
            let names = names.of(&reader.facts.parts).iter().map(|&name| Supplied {
                source: SourceIndex::OWN,
                kind,
                name,
                by: SuppliedBy::Platform,
            });
            reader.facts.supplied.extend(names);
            true
        });
    }

    pub(super) fn expectations(&mut self, value: NodeId) {
        self.items(value, |reader, item| {
            let mut read = Expectation {
                source: SourceIndex::OWN,
                service: None,
                contract: None,
                key: None,
                met_by: None,
                type_name: None,
                lifetime: None,
            };
            reader.fields(item, &format::EXPECTATION, |reader, field, value| {
                let place = match field {
                    "service" => &mut read.service,
                    "contract" => &mut read.contract,
                    "key" => &mut read.key,
                    "met-by" => &mut read.met_by,
                    "type" => &mut read.type_name,
                    "lifetime" => &mut read.lifetime,
                    _ => return false,
                };
                *place = reader.name(value);
                true
            });
            // With an unusable name, that is the finding.
            if reader.written(item, format::EXPECTATION.one_of) != 1 {
                let message = "an expectation names a contract or a service, and one only".to_owned();
                reader.wrong_shape(item, message, None);
            } else if read.service.is_some() || read.contract.is_some() {
                reader.facts.expectations.push(read);
            }
        });
    }

    /// A day, written year first.
    fn day(&mut self, value: NodeId) -> Option<Named> {
        let day = self.name(value)?;
        if super::is_day(self.tree.text(value)) {
            return Some(day);
        }
        let message = format!("{} is no day", self.tree.text(value));
        self.wrong_shape(value, message, Some("write it as YYYY-MM-DD".to_owned()));
        None
    }

    pub(super) fn allowances(&mut self, value: NodeId) {
        self.items(value, |reader, item| {
            let (mut rule, mut subject, mut reason, mut until) = (None, None, None, None);
            reader.fields(item, &format::ALLOWANCE, |reader, field, value| {
                match field {
                    "rule" => rule = reader.name(value),
                    "subject" => subject = reader.name(value),
                    "reason" => reason = reader.name(value).map(|reason| reason.name),
                    "until" => until = reader.day(value),
                    _ => return false,
                }
                true
            });
            if let (Some(rule), Some(subject)) = (rule, subject) {
                let allowance = Allowance { source: SourceIndex::OWN, rule, subject, reason, until };
                reader.facts.allowances.push(allowance);
            } else if reader.written(item, format::ALLOWANCE.required) < 2 {
                let message = "an allowance names the rule and the subject it accepts".to_owned();
                reader.wrong_shape(item, message, None);
            }
        });
    }
}
