//! Services, their needs and their tags.

use super::format;
use super::reader::{Reader, Step};
use crate::syntax::{NodeId, NodeKind};
use corvant_core::facts::{
    Attribute, FieldOf, Many, Named, Need, Scalar, Service, ServiceField, Tagging, Target, Via,
};
use corvant_core::source::SourceIndex;

impl Reader<'_> {
    pub(super) fn services(&mut self, value: NodeId) {
        // Arrays that grow by doubling are moved many times over, and end half empty.
        let count = if self.tree.kind(value) == NodeKind::Map { self.tree.fields(value).count() } else { 0 };
        self.facts.services.reserve_exact(count);
        self.facts.parts.needs.reserve(2 * count);
        self.entries(value, |reader, id, value| {
            let service = reader.service(id, value);
            reader.facts.services.push(service);
        });
    }

    fn service(&mut self, id: Named, value: NodeId) -> Service {
        let mut service = Service::new(id);
        let mut factory = None;
        let first_need = self.facts.parts.needs.len();
        self.fields(value, &format::SERVICE, |reader, field, value| {
            match field {
                "about" => reader.about(value),
                "needs" => {
                    service.needs_given = true;
                    reader.needs(value);
                }
                "tags" => service.taggings = reader.taggings(value),
                "built-by" => factory = reader.built_by(value),
                _ => return reader.plain_field(&mut service, field, value),
            }
            true
        });
        self.facts.parts.needs.extend(factory);
        service.needs = Many::since(first_need, &self.facts.parts);
        service
    }

    /// A field that holds names or a flag; false if there is no such field.
    fn plain_field(&mut self, service: &mut Service, name: &str, value: NodeId) -> bool {
        let Some(field) = ServiceField::ALL.iter().find(|field| field.name == name) else { return false };
        match field.of {
            FieldOf::Name(of) => *of(service) = self.name(value),
            FieldOf::Word(words, of) => {
                *of(service) = self.word(value, words).map(|_| self.named(value));
            }
            FieldOf::Names(of) => *of(service) = self.names(value),
            FieldOf::Flag(of) => *of(service) = self.flag(value),
        }
        true
    }

    /// A factory is a need of the service it builds.
    fn built_by(&mut self, value: NodeId) -> Option<Need> {
        let (mut service, mut method) = (None, None);
        self.fields(value, &format::BUILT_BY, |reader, field, value| {
            match field {
                "service" => service = reader.name(value),
                "method" => method = reader.name(value),
                _ => return false,
            }
            true
        });
        if self.tree.kind(value) == NodeKind::Map && self.written(value, &["service"]) == 0 {
            self.wrong_shape(value, "`built-by` names no `service` that builds".to_owned(), None);
        }
        let factory = service?;
        Some(Need {
            source: SourceIndex::OWN,
            slot: Named { name: self.interner.intern("built-by"), span: self.tree.span(value) },
            target: Target::Service(factory.name),
            span: factory.span,
            key: None,
            via: Via::Factory,
            method,
            optional: false,
            lazy: false,
            by_type: false,
            is_repeated: false,
            registered_before: Need::UNORDERED,
        })
    }

    /// The needs of a service, an entry or a phase: slot to target.
    pub(super) fn needs(&mut self, value: NodeId) -> Many<Need> {
        let start = self.facts.parts.needs.len();
        self.entries(value, |reader, slot, value| {
            let need = reader.need(slot, value);
            reader.facts.parts.needs.extend(need);
        });
        Many::since(start, &self.facts.parts)
    }

    fn need(&mut self, slot: Named, value: NodeId) -> Option<Need> {
        if self.tree.kind(value) != NodeKind::Map {
            return self.bare_need(value);
        }
        let mut targets: Vec<(Target, NodeId)> = Vec::new();
        let (mut key, mut via, mut method, mut optional, mut lazy) =
            (None, Via::default(), None, false, false);
        self.fields(value, &format::NEED, |reader, field, value| {
            match field {
                "service" => targets.extend(reader.target(value, Target::Service)),
                "contract" => targets.extend(reader.target(value, Target::Contract)),
                "all" => targets.extend(reader.target(value, Target::All)),
                "tag" => targets.extend(reader.target(value, Target::Tag)),
                "setting" => targets.extend(reader.target(value, Target::Setting)),
                "wrapped" => targets.extend(reader.wrapped(value)),
                "key" => key = reader.name(value),
                "optional" => optional = reader.flag(value),
                "lazy" => lazy = reader.flag(value),
                "via" => via = reader.via(value),
                "method" => method = reader.name(value),
                "about" => reader.about(value),
                _ => return false,
            }
            true
        });
        let &[(target, at)] = targets.as_slice() else {
            self.aimless_need(value, targets.len());
            return None;
        };
        if key.is_some() && !matches!(target, Target::Contract(_)) {
            let help = "take the key out, or aim the need at a contract".to_owned();
            self.wrong_shape(value, "a key goes with a contract only".to_owned(), Some(help));
        }
        let source = SourceIndex::OWN;
        let (span, by_type) = (self.tree.span(at), false);
        Some(Need {
            source,
            slot,
            target,
            span,
            key,
            via,
            method,
            optional,
            lazy,
            by_type,
            is_repeated: false,
            registered_before: Need::UNORDERED,
        })
    }

    fn bare_need(&mut self, value: NodeId) -> Option<Need> {
        if self.tree.kind(value) == NodeKind::Text {
            let text = self.tree.text(value);
            let message = format!("a need says what {text} is: a service, a contract, a tag or a setting");
            let help = format!("write {{ service: {text} }} or {{ contract: {text} }}");
            self.wrong_shape(value, message, Some(help));
        } else {
            self.expected(value, "a map such as { service: clock.main }");
        }
        None
    }

    fn aimless_need(&mut self, value: NodeId, targets: usize) {
        // With an unusable target, that is the finding; with none written, this is.
        if targets > 1 || self.written(value, format::NEED.one_of) == 0 {
            let found = if targets > 1 { "several" } else { "none" };
            let message =
                format!("a need names one of service, contract, all, tag, setting, wrapped; here {found}");
            let help = (targets > 1).then(|| "give each target a slot of its own".to_owned());
            self.wrong_shape(value, message, help);
        }
    }

    fn wrapped(&mut self, value: NodeId) -> Option<(Target, NodeId)> {
        let is_said = self.flag(value);
        if !is_said && self.tree.kind(value) == NodeKind::Boolean {
            let message = "`wrapped: false` aims at nothing".to_owned();
            let help = "name a service, a contract, a tag or a setting instead".to_owned();
            self.wrong_shape(value, message, Some(help));
        }
        if is_said && !matches!(self.path.first(), Some(Step::Field("services"))) {
            let message = "only a service wraps another, and can need what it wraps".to_owned();
            self.wrong_shape(value, message, Some("name the service that is meant".to_owned()));
            return None;
        }
        is_said.then_some((Target::Wrapped, value))
    }

    fn target(
        &mut self,
        value: NodeId,
        make: fn(corvant_core::name::Name) -> Target,
    ) -> Option<(Target, NodeId)> {
        self.name(value).map(|named| (make(named.name), value))
    }

    fn via(&mut self, value: NodeId) -> Via {
        self.word(value, format::VIA).and_then(|_| Via::of(self.tree.text(value))).unwrap_or_default()
    }

    /// Tags: a list of names, or of maps from one name to its attributes.
    fn taggings(&mut self, value: NodeId) -> Many<Tagging> {
        let start = self.facts.parts.taggings.len();
        self.items(value, |reader, item| match reader.tree.kind(item) {
            NodeKind::Map => {
                if reader.tree.fields(item).count() != 1 {
                    let message = "a tag is one name, or one name with its attributes".to_owned();
                    let help = "begin a new item with `-` for each tag, attributes in { }".to_owned();
                    reader.wrong_shape(item, message, Some(help));
                    return;
                }
                reader.entries(item, |reader, tag, value| {
                    let attributes = reader.attributes(value);
                    let source = SourceIndex::OWN;
                    reader.facts.parts.taggings.push(Tagging { source, tag, attributes });
                });
            }
            _ => {
                if let Some(tag) = reader.name(item) {
                    let source = SourceIndex::OWN;
                    reader.facts.parts.taggings.push(Tagging { source, tag, attributes: Many::default() });
                }
            }
        });
        Many::since(start, &self.facts.parts)
    }

    fn attributes(&mut self, value: NodeId) -> Many<Attribute> {
        let start = self.facts.parts.attributes.len();
        self.entries(value, |reader, attribute, value| {
            let kind = match reader.tree.kind(value) {
                NodeKind::Text => Scalar::Text,
                NodeKind::Integer => Scalar::Integer,
                NodeKind::Number => Scalar::Number,
                NodeKind::Boolean => Scalar::Boolean,
                NodeKind::Null | NodeKind::List | NodeKind::Map => {
                    return reader.expected(value, "a plain value");
                }
            };
            let value = reader.named(value);
            reader.facts.parts.attributes.push(Attribute { attribute, value, kind });
        });
        Many::since(start, &self.facts.parts)
    }
}
