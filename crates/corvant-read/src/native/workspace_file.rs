//! The workspace file, `corvant.toml`: what a workspace decides for all of its modules.
//!
//! What it says of the wiring (values by stage, roster, supplied names, expectations, allowances) becomes facts
//! like those of any manifest; the rest becomes [`Settings`]. Mistakes in it are findings at their own lines.

use super::format;
use super::reader::Reader;
use crate::custom::{CustomReader, declaration};
use crate::syntax::{NodeId, NodeKind, Tree};
use crate::types::wires::{GIVES, MEANS, Wires};
use corvant_core::facts::{Facts, Many, Named, Setting, StageValue, WIRES};
use corvant_core::finding::Severity;
use corvant_core::name::Interner;
use corvant_core::rules::TEXTS;
use corvant_core::source::SourceIndex;
use corvant_core::wiring::{Policy, SUPER_TYPES, SameId, USE};
use globset::{Glob, GlobBuilder, GlobMatcher};
use regex::Regex;

/// The name of the workspace file, in the root of the workspace.
pub const NAME: &str = "corvant.toml";

/// The words for severities in `[rules]` and on the command line, with what they mean; `None`: the rule does
/// not run.
pub const SEVERITIES: [(&str, Option<Severity>); 4] = [
    ("error", Some(Severity::Error)),
    ("warning", Some(Severity::Warning)),
    ("note", Some(Severity::Note)),
    ("off", None),
];

/// What a workspace file says beside facts.
#[derive(Debug, Default)]
pub struct Settings {
    /// Folders to look for manifests in; `None`: all.
    pub members: Option<Vec<Glob>>,
    /// Folders and files to leave out.
    pub exclude: Vec<Glob>,
    /// Files in the order in which they are read.
    pub order: Vec<Glob>,
    /// Decisions for all modules.
    pub policy: Policy,
    /// Open standards whose files are not read, by name.
    pub standards_off: Vec<&'static str>,
    /// Code whose types are known.
    pub(crate) types: Vec<TypesOf>,
    /// What types and marks stand for.
    pub(crate) wires: Wires,
    /// Readers for formats of the house.
    pub readers: Vec<CustomReader>,
    /// What all readers that stand there are called, the unusable ones too; empty: one has no name.
    pub reader_names: Vec<String>,
}

/// Some code whose types are known.
#[derive(Debug)]
pub(crate) struct TypesOf {
    pub(crate) globs: Vec<Glob>,
    /// Which module a file of it belongs to; `None`: to none.
    pub(crate) module: Option<Regex>,
    /// Folders below which the types of a scope must lie.
    pub(crate) folders: Vec<ScopeFolder>,
}

/// A folder that stands for a scope.
#[derive(Clone, Debug)]
pub(crate) struct ScopeFolder {
    pub(crate) below: GlobMatcher,
    pub(crate) scope: String,
}

const HERE: SourceIndex = SourceIndex(0);

/// Lifetimes in the order: each is looked for among all that are shorter.
const LIFETIME_LIMIT: usize = 100;

/// The settings and facts of a workspace file; what is wrong with its shape is among the facts, as troubles.
pub fn read(tree: &Tree<'_>, interner: &Interner) -> (Settings, Facts) {
    let mut reader = Reader::new(tree, interner, "a workspace file");
    let mut settings = Settings::default();
    let Some(root) = tree.root() else { return (settings, reader.facts) };
    reader.fields(root, &format::WORKSPACE_FILE, |reader, field, value| {
        match field {
            "workspace" => reader.workspace(value, &mut settings),
            "policy" => reader.policy(value, &mut settings),
            "lifetimes" => reader.lifetimes(value, &mut settings.policy),
            "stages" => reader.stages(value),
            "rules" => reader.severities(value, &mut settings.policy),
            "roster" => reader.roster(value),
            "supplied" => reader.supplied(value),
            "expect" => reader.expectations(value),
            "allow" => reader.allowances(value),
            "standards" => reader.standards(value, &mut settings),
            "types" => reader.items(value, |reader, item| reader.types(item, &mut settings)),
            "wire" => reader.wire(value, &mut settings.wires),
            declaration::SECTION => {
                settings.reader_names = reader.reader_names(value);
                settings.readers = reader.readers(value);
            }
            _ => return false,
        }
        true
    });
    (settings, reader.facts)
}

impl Reader<'_> {
    fn workspace(&mut self, value: NodeId, settings: &mut Settings) {
        self.fields(value, &format::WORKSPACE, |reader, field, value| {
            match field {
                "members" => {
                    let before = reader.reported;
                    let globs = reader.globs(value);
                    // With unusable ones among them, more is read rather than less.
                    settings.members = Some(globs).filter(|_| reader.reported == before);
                }
                "exclude" => settings.exclude = reader.globs(value),
                "disabled" => {
                    let modules = reader.names(value);
                    let modules = modules.of(&reader.facts.parts).iter().map(|&module| (HERE, module));
                    reader.facts.disabled.extend(modules);
                }
                _ => return false,
            }
            true
        });
    }

    fn standards(&mut self, value: NodeId, settings: &mut Settings) {
        self.fields(value, &format::STANDARDS, |reader, field, value| {
            let Some(known) = format::STANDARDS.fields.iter().find(|known| known.name == field) else {
                return false;
            };
            if !reader.flag(value) && reader.tree.kind(value) == NodeKind::Boolean {
                settings.standards_off.push(known.name);
            }
            true
        });
    }

    fn types(&mut self, item: NodeId, settings: &mut Settings) {
        let mut of = TypesOf { globs: Vec::new(), module: None, folders: Vec::new() };
        self.fields(item, &format::TYPES, |reader, field, value| {
            match field {
                "files" => of.globs = reader.globs(value),
                "module" => of.module = reader.module_in_path(value),
                "folders" => reader.items(value, |reader, item| of.folders.extend(reader.scope_folder(item))),
                "about" => reader.about(value),
                _ => return false,
            }
            true
        });
        self.required(item, &format::TYPES, "a list of types");
        settings.types.push(of);
    }

    fn scope_folder(&mut self, item: NodeId) -> Option<ScopeFolder> {
        let (mut below, mut scope) = (None, None);
        self.fields(item, &format::SCOPE_FOLDER, |reader, field, value| {
            match field {
                "below" => below = reader.glob(value),
                "scope" => scope = reader.name(value).map(|_| reader.tree.text(value).to_owned()),
                _ => return false,
            }
            true
        });
        self.required(item, &format::SCOPE_FOLDER, "a folder of a scope");
        Some(ScopeFolder { below: below?.compile_matcher(), scope: scope? })
    }

    fn wire(&mut self, value: NodeId, wires: &mut Wires) {
        self.fields(value, &format::WIRE, |reader, field, value| {
            match field {
                "as" => reader.items(value, |reader, item| {
                    wires.types.extend(reader.name_and_word(
                        item,
                        &format::WIRE_AS,
                        ("type", "means"),
                        &MEANS,
                    ));
                }),
                "mark" => reader.items(value, |reader, item| {
                    wires.marks.extend(reader.name_and_word(
                        item,
                        &format::WIRE_MARK,
                        ("name", "gives"),
                        &GIVES,
                    ));
                }),
                _ => return false,
            }
            true
        });
    }

    /// A map of a name and one of some words.
    fn name_and_word<T: Copy>(
        &mut self,
        item: NodeId,
        map: &'static format::Map,
        (name_field, word_field): (&str, &str),
        words: &[(&'static str, T)],
    ) -> Option<(String, T)> {
        let (mut name, mut word) = (None, None);
        self.fields(item, map, |reader, field, value| {
            if field == name_field {
                name = reader.name(value).map(|_| reader.tree.text(value).to_owned());
            } else if field == word_field {
                word = reader.one_of(value, words);
            } else if field == "about" {
                reader.about(value);
            } else {
                return false;
            }
            true
        });
        self.required(item, map, "an entry");
        Some((name?, word?))
    }

    /// What one of some words stands for.
    fn one_of<T: Copy>(&mut self, value: NodeId, words: &[(&'static str, T)]) -> Option<T> {
        let texts: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
        self.word(value, &texts)?;
        words.iter().find(|(word, _)| *word == self.tree.text(value)).map(|(_, meaning)| *meaning)
    }

    pub(crate) fn globs(&mut self, value: NodeId) -> Vec<Glob> {
        let mut globs = Vec::new();
        self.items(value, |reader, item| globs.extend(reader.glob(item)));
        globs
    }

    fn glob(&mut self, item: NodeId) -> Option<Glob> {
        self.name(item)?;
        let text = self.tree.text(item).trim_end_matches('/');
        match GlobBuilder::new(text).literal_separator(true).build() {
            Ok(glob) => Some(glob),
            Err(error) => {
                let message = format!("{text} is no glob: {}", error.kind());
                self.wrong_shape(item, message, None);
                None
            }
        }
    }

    fn policy(&mut self, value: NodeId, settings: &mut Settings) {
        self.fields(value, &format::POLICY, |reader, field, value| {
            let policy = &mut settings.policy;
            match field {
                "order" => settings.order = reader.globs(value),
                "same-id" => policy.same_id = reader.second(value),
                "same-contract" => policy.same_contract = reader.second(value),
                "default-unless-offered" => policy.default_unless_offered = reader.flag(value),
                "wire" => {
                    let said = reader.word(value, WIRES).map(|_| reader.tree.text(value));
                    policy.wires_constructors = said == Some(WIRES[0]);
                }
                "offers" => policy.offers_super_types = reader.word(value, &[SUPER_TYPES]).is_some(),
                "imports-first" => policy.imports_first = reader.flag(value),
                "stage-required" => policy.stage_required = reader.flag(value),
                _ => return false,
            }
            true
        });
    }

    /// What a second of something means.
    fn second(&mut self, value: NodeId) -> SameId {
        self.one_of(value, &SameId::ALL).unwrap_or_default()
    }

    fn lifetimes(&mut self, value: NodeId, policy: &mut Policy) {
        let tree = self.tree;
        // The default is held against the order, wherever in the file that stands.
        let order = tree.field(value, "order");
        self.fields(value, &format::LIFETIMES, |reader, field, value| {
            match field {
                "order" => policy.lifetimes.order = reader.lifetime_order(value),
                "default" => {
                    let known = order.map_or(policy.lifetimes.order.clone(), |order| {
                        tree.children(order).map(|word| tree.text(word).to_owned()).collect()
                    });
                    policy.lifetimes.default = reader.default_lifetime(value, &known);
                }
                _ => return false,
            }
            true
        });
    }

    fn default_lifetime(&mut self, value: NodeId, order: &[String]) -> Option<String> {
        self.name(value)?;
        let word = self.tree.text(value);
        let is_known = word == USE || order.iter().any(|known| known == word);
        if !is_known {
            let message = format!("the default lifetime {word} is not one of {}, {USE}", order.join(", "));
            self.wrong_shape(value, message, Some("put it into the `order`, or choose another".to_owned()));
        }
        is_known.then(|| word.to_owned())
    }

    fn lifetime_order(&mut self, value: NodeId) -> Vec<String> {
        let mut order: Vec<String> = Vec::new();
        if self.tree.kind(value) == NodeKind::List && self.tree.children(value).nth(LIFETIME_LIMIT).is_some()
        {
            let message = format!("the order has more than {LIFETIME_LIMIT} lifetimes");
            self.wrong_shape(value, message, Some("keep those that differ in what they may hold".to_owned()));
            return order;
        }
        self.items(value, |reader, item| {
            let Some(_) = reader.name(item) else { return };
            let word = reader.tree.text(item);
            if word == USE {
                let message = format!("{USE} has no place in the order: it lives as long as its holder");
                reader.wrong_shape(item, message, Some("take it out".to_owned()));
            } else if order.iter().any(|known| known == word) {
                let message = format!("the lifetime {word} stands in the order twice");
                reader.wrong_shape(item, message, Some("take one of the two out".to_owned()));
            } else {
                order.push(word.to_owned());
            }
        });
        order
    }

    fn stages(&mut self, value: NodeId) {
        self.entries(value, |reader, stage, value| {
            reader.facts.stages.push(stage);
            reader.stage_settings(value, stage, &mut String::new());
        });
    }

    /// The settings' values in a stage. A dot in the name of a setting may have made maps of maps of it.
    fn stage_settings(&mut self, value: NodeId, stage: Named, prefix: &mut String) {
        self.each_field(value, |reader, key, value| {
            if !reader.has_name(key) {
                return;
            }
            let before = prefix.len();
            prefix.push_str(reader.tree.text(key));
            if reader.tree.kind(value) == NodeKind::Map {
                prefix.push('.');
                // As deep as a syntax allows, and no deeper.
                reader.stage_settings(value, stage, prefix);
            } else {
                let name = reader.interner.intern(prefix);
                let setting = Named { name, span: reader.tree.span(key) };
                let start = reader.facts.parts.stage_values.len();
                let references = reader.references(value);
                let value = reader.setting_value(value);
                reader.facts.parts.stage_values.push(StageValue { stage, value, references });
                let stages = Many::since(start, &reader.facts.parts);
                let (value, references, required) = (None, Many::default(), false);
                reader.facts.settings.push(Setting {
                    source: HERE,
                    setting,
                    value,
                    references,
                    stages,
                    required,
                });
            }
            prefix.truncate(before);
        });
    }

    fn severities(&mut self, value: NodeId, policy: &mut Policy) {
        let names: Vec<&str> = TEXTS.iter().map(|rule| rule.name).collect();
        self.each_field(value, |reader, key, value| {
            let text = reader.tree.text(key);
            let Some(rule) = TEXTS.iter().find(|rule| rule.name == text) else {
                return reader.unknown_field(key, value, &names);
            };
            let severity = reader.one_of(value, &SEVERITIES);
            policy.severities.extend(severity.map(|severity| (rule.name, severity)));
        });
    }
}
