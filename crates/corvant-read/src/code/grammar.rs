//! Grammars: source code to the tree of a parser, within limits.

use crate::types::{self, Language};
use ast_grep_core::matcher::PatternBuilder;
use ast_grep_core::meta_var::MetaVariable;
use ast_grep_core::tree_sitter::{LanguageExt, StrDoc, TSLanguage};
use ast_grep_core::{AstGrep as Root, Language as PatternLanguage, Node, Pattern, PatternError};
use std::num::NonZero;
use std::sync::{OnceLock, mpsc};
use std::thread;
use std::time::Duration;

/// A file as its parser sees it.
pub(crate) type Parsed = Root<StrDoc<Grammar>>;
/// A piece of it.
pub(crate) type Piece<'r> = Node<'r, StrDoc<Grammar>>;

/// How long a file may take to parse; past that it is left alone.
const PATIENCE: Duration = Duration::from_secs(10);

/// What is known of the kinds of pieces of each grammar, once it is asked for.
pub(super) type Kinds = [OnceLock<Vec<bool>>; 7];

/// What stands for `$` where a language knows no such letter in names.
pub(super) const HOLE: char = 'µ';

/// A grammar that code is parsed by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Grammar {
    Java,
    Kotlin,
    CSharp,
    Php,
    TypeScript,
    /// TypeScript with markup in it.
    Tsx,
    Python,
}

impl Grammar {
    /// That of a file; `None`: there is none for what it is written in.
    pub(crate) fn of_file(path: &str, language: Language) -> Option<Self> {
        let has_markup = path.rsplit_once('.').is_some_and(|(_, ending)| ending == "tsx");
        Self::of(language).map(|grammar| if has_markup { Self::Tsx } else { grammar })
    }

    /// That of a language.
    pub(crate) fn of(language: Language) -> Option<Self> {
        match language {
            Language::Java => Some(Self::Java),
            Language::Kotlin => Some(Self::Kotlin),
            Language::CSharp => Some(Self::CSharp),
            Language::Php => Some(Self::Php),
            Language::TypeScript => Some(Self::TypeScript),
            Language::Python => Some(Self::Python),
            Language::ClassFile => None,
        }
    }

    /// Whether this build of the program has it.
    pub(crate) fn is_built_in(self) -> bool {
        self.parser().is_some()
    }

    fn parser(self) -> Option<TSLanguage> {
        match self {
            #[cfg(feature = "java")]
            Self::Java => Some(tree_sitter_java::LANGUAGE.into()),
            #[cfg(feature = "kotlin")]
            Self::Kotlin => Some(tree_sitter_kotlin_ng::LANGUAGE.into()),
            #[cfg(feature = "csharp")]
            Self::CSharp => Some(tree_sitter_c_sharp::LANGUAGE.into()),
            #[cfg(feature = "php")]
            Self::Php => Some(tree_sitter_php::LANGUAGE_PHP.into()),
            #[cfg(feature = "typescript")]
            Self::TypeScript => Some(tree_sitter_typescript::LANGUAGE_TYPESCRIPT.into()),
            #[cfg(feature = "typescript")]
            Self::Tsx => Some(tree_sitter_typescript::LANGUAGE_TSX.into()),
            #[cfg(feature = "python")]
            Self::Python => Some(tree_sitter_python::LANGUAGE.into()),
            #[allow(unreachable_patterns, reason = "of features that are left out")]
            _ => None,
        }
    }

    /// By number of a kind of pieces whether its name is one that is asked about; worked out once for each grammar.
    pub(super) fn kinds(self, known: &'static Kinds, is_it: fn(&str) -> bool) -> &'static [bool] {
        known[self as usize].get_or_init(|| {
            let parser = self.parser();
            let count = parser.as_ref().map_or(0, TSLanguage::node_kind_count);
            let kind = |id: usize| parser.as_ref().and_then(|parser| parser.node_kind_for_id(id as u16));
            (0..count).map(|id| kind(id).is_some_and(is_it)).collect()
        })
    }

    /// What may stand around a piece of code for it to be one, `{}` in place of the piece: the first in which it is whole counts.
    pub(super) fn contexts(self) -> &'static [&'static str] {
        match self {
            Self::Java => &["class Z { void z() { {}; } }", "class Z { {} }", "{}", "class Z { Z z = {}; }"],
            Self::Kotlin => &["fun z() {\n{}\n}", "class Z {\n{}\n}", "{}", "val z = z({})"],
            Self::CSharp => {
                &["class Z { void z() { {}; } }", "class Z { {} }", "{}", "class Z { Z z = z({}); }"]
            }
            Self::Php => &["<?php {};", "<?php class Z { {} }", "<?php {}", "<?php z([{}]);", "<?php z({});"],
            Self::TypeScript | Self::Tsx => &["{}", "class Z { {} }", "z({ {} })", "z({})"],
            Self::Python => &["{}", "z({})", "z({ {} })"],
        }
    }

    /// Parses a text, without regard to limits: for texts of the workspace's own.
    pub(super) fn parse_trusted(self, text: &str) -> Option<Parsed> {
        self.is_built_in().then(|| StrDoc::try_new(text, self).ok().map(Root::doc)).flatten()
    }

    /// Parses a file. The parser may take far longer for code that nobody wrote by hand than for any other: what is nested
    /// deep is not handed to it, and what takes too long is given up, with the reason.
    pub(crate) fn parse(self, text: &str, language: Language) -> Result<Parsed, String> {
        if let Some(at) = types::too_deep(text, language) {
            let line = text[..at].matches('\n').count() + 1;
            return Err(format!("too much stands in one another in line {line}"));
        }
        let (send, receive) = mpsc::sync_channel(1);
        let text = text.to_owned();
        let worker = thread::Builder::new().name("parser".to_owned());
        // A worker that is given up ends with the program.
        let spawned = worker.spawn(move || _ = send.send(self.parse_trusted(&text)));
        spawned.map_err(|error| error.to_string())?;
        let parsed = receive
            .recv_timeout(PATIENCE)
            .map_err(|_| format!("it could not be parsed in {} seconds", PATIENCE.as_secs()))?;
        parsed.ok_or_else(|| "the parser gives nothing".to_owned())
    }
}

impl PatternLanguage for Grammar {
    fn expando_char(&self) -> char {
        HOLE
    }

    fn extract_meta_var(&self, source: &str) -> Option<MetaVariable> {
        let as_variable = source.strip_prefix('$').filter(|rest| rest.starts_with(HOLE));
        let hole = as_variable.unwrap_or(source);
        let signs = hole.chars().take_while(|&letter| letter == HOLE).count();
        let name = &hole[signs * HOLE.len_utf8()..];
        let is_name = name.chars().all(|one| one.is_ascii_uppercase() || one.is_ascii_digit() || one == '_');
        match (signs, name) {
            (3, "" | "_") => Some(MetaVariable::Multiple),
            (3, name) if is_name => Some(MetaVariable::MultiCapture(name.to_owned())),
            (1, "_") => Some(MetaVariable::Dropped(true)),
            (1, name) if is_name && !name.is_empty() => Some(MetaVariable::Capture(name.to_owned(), true)),
            _ => None,
        }
    }

    fn kind_to_id(&self, kind: &str) -> u16 {
        self.parser().map_or(0, |parser| parser.id_for_node_kind(kind, true))
    }

    fn field_to_id(&self, field: &str) -> Option<u16> {
        self.parser()?.field_id_for_name(field).map(NonZero::get)
    }

    fn build_pattern(&self, builder: &PatternBuilder<'_>) -> Result<Pattern, PatternError> {
        builder.build(|text| StrDoc::try_new(text, *self))
    }
}

impl LanguageExt for Grammar {
    fn get_ts_language(&self) -> TSLanguage {
        self.parser().expect("a grammar that is not built in is refused before")
    }
}
