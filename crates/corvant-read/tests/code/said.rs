//! What a reader of code says of a file, in lines that a person can hold against the file.

use corvant_core::facts::{Facts, Many, Named, Need, Target};
use corvant_core::name::{Name, Names};
use corvant_core::source::Span;
use corvant_read::workspace::{self, Workspace};

/// The endings of files by language.
const ENDINGS: [(&str, &str); 6] = [
    ("java", "java"),
    ("kotlin", "kt"),
    ("csharp", "cs"),
    ("php", "php"),
    ("typescript", "ts"),
    ("python", "py"),
];

/// What a reader takes from one file in a language.
pub(crate) fn said(language: &str, takes: &str, code: &str) -> Vec<String> {
    let ending = ENDINGS.iter().find(|(known, _)| *known == language).expect("a language").1;
    said_of(language, takes, &[(&format!("depot/Setup.{ending}"), code)])
}

/// What a reader takes from some files in a language.
pub(crate) fn said_of(language: &str, takes: &str, files: &[(&str, &str)]) -> Vec<String> {
    let workspace = workspace_of(language, takes, files);
    let mut lines = Vec::new();
    for manifest in workspace.manifests.iter().filter(|manifest| manifest.source.path != "corvant.toml") {
        Lines {
            facts: &manifest.facts,
            names: &workspace.names,
            text: &manifest.source.text,
            said: &mut lines,
        }
        .all();
    }
    lines
}

/// A workspace file with a reader of code that takes so.
pub(crate) fn reader(language: &str, takes: &str) -> String {
    format!(
        "[[reader]]\nname = \"house\"\nfiles = [\"depot/**\"]\nsyntax = \"code\"\nlanguage = \"{language}\"\nmodule = \"depot\"\n{takes}"
    )
}

fn workspace_of(language: &str, takes: &str, files: &[(&str, &str)]) -> Workspace {
    let reader = reader(language, takes);
    let texts = std::iter::once(("corvant.toml", reader.as_str())).chain(files.iter().copied());
    let workspace = workspace::from_texts(texts).expect("a workspace file that can be read");
    let troubles = workspace.manifests.iter().flat_map(|manifest| &manifest.facts.troubles);
    let troubles: Vec<String> = troubles.map(|one| format!("{}: {}", one.subject, one.message)).collect();
    assert_eq!(troubles, [""; 0]);
    workspace
}

struct Lines<'a> {
    facts: &'a Facts,
    names: &'a Names,
    text: &'a str,
    said: &'a mut Vec<String>,
}

impl Lines<'_> {
    fn all(&mut self) {
        let facts = self.facts;
        for service in &facts.services {
            let mut line = format!("service {}", self.text(service.id.name));
            self.one(&mut line, "type", service.type_name);
            self.some(&mut line, "offers", service.offers);
            self.one(&mut line, "key", service.key);
            self.one(&mut line, "lifetime", service.lifetime);
            self.one(&mut line, "alias of", service.alias_of);
            self.some(&mut line, "stages", service.stages);
            self.some(&mut line, "except", service.except);
            for (is, word) in
                [(service.maybe, "maybe"), (service.yields, "yields"), (service.is_default, "default")]
            {
                line.push_str(if is { ", " } else { "" });
                line.push_str(if is { word } else { "" });
            }
            self.said.push(line);
            self.needs("", service.needs);
        }
        for provider in &facts.providers {
            let mut line = format!("provider {}", self.text(provider.id.name));
            if let Some(registers) = provider.registers {
                self.some(&mut line, "registers", registers);
            }
            self.said.push(line);
            self.needs("register ", provider.register);
            self.needs("start ", provider.start);
        }
        for roster in &facts.rosters {
            let mut line = String::from("roster");
            let stage = roster.stage.map(|stage| format!(", stage {}", self.text(stage)));
            line.extend(stage);
            self.some(&mut line, "of", roster.providers);
            self.said.push(line);
        }
        for choice in &facts.choices {
            let mut line = format!("choice {}", self.text(choice.contract.name));
            self.one(&mut line, "key", choice.key);
            self.one(&mut line, "gives", Some(choice.service));
            self.one(&mut line, "for", choice.holder);
            self.said.push(line);
        }
        for entry in &facts.entries {
            let word = if entry.is_look_up { "look-up by" } else { "entry" };
            self.said.push(format!("{word} {}", self.text(entry.id.name)));
            self.needs("", entry.needs);
        }
        for setting in &facts.settings {
            let mut line = format!("setting {}", self.text(setting.setting.name));
            self.one(&mut line, "is", setting.value);
            for value in setting.stages.of(&self.facts.parts) {
                line.extend([", in ", self.text(value.stage.name), " ", self.text(value.value.name)]);
            }
            self.said.push(line);
        }
        for computed in &facts.computed {
            let line = format!("unseen {}", self.written(computed.at));
            self.said.push(line);
        }
    }

    fn needs(&mut self, phase: &str, needs: Many<Need>) {
        for need in needs.of(&self.facts.parts) {
            let target = match need.target {
                Target::Service(name) => format!("service {}", self.text(name)),
                Target::Contract(name) => self.text(name).to_owned(),
                Target::All(name) => format!("all {}", self.text(name)),
                Target::Tag(name) => format!("tag {}", self.text(name)),
                Target::Setting(name) => format!("setting {}", self.text(name)),
                Target::Wrapped => "wrapped".to_owned(),
            };
            let mut line = format!("  {phase}needs {target}");
            self.one(&mut line, "key", need.key);
            let before = (need.registered_before != Need::UNORDERED)
                .then(|| format!("after {}", need.registered_before));
            let words = [
                (need.optional, "optional"),
                (need.lazy, "lazy"),
                (need.is_repeated, "repeated"),
                (before.is_some(), before.as_deref().unwrap_or_default()),
            ];
            for word in words.iter().filter(|(is, _)| *is) {
                line.push_str(", ");
                line.push_str(word.1);
            }
            self.said.push(line);
        }
    }

    fn text(&self, name: Name) -> &str {
        self.names.text(name)
    }

    fn written(&self, at: Span) -> String {
        self.text[at.start as usize..at.end as usize].split_whitespace().collect::<Vec<_>>().join(" ")
    }

    fn one(&self, line: &mut String, word: &str, named: Option<Named>) {
        if let Some(named) = named {
            line.extend([", ", word, " ", self.text(named.name)]);
        }
    }

    fn some(&self, line: &mut String, word: &str, named: Many<Named>) {
        let all: Vec<&str> = named.of(&self.facts.parts).iter().map(|one| self.text(one.name)).collect();
        if !all.is_empty() {
            line.extend([", ", word, " ", &all.join(" + ")]);
        }
    }
}
