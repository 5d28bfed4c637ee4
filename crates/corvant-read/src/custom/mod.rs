//! Custom readers: house formats, as a team describes them in its workspace file.
//!
//! `declaration` reads the description. A file is turned into a tree by its syntax; a [`CustomReader`] reader then takes
//! facts out of it: `path` selects, `field` finds texts and makes names of them, `reference` finds what a text
//! refers to, `take` puts facts together (with `need` and `tagging`), `over_code` is what readers over code say and ask besides, and
//! `account` says what was left over.

pub(crate) mod account;
pub(crate) mod declaration;
pub(crate) mod field;
mod folder;
mod item;
mod need;
mod over_code;
pub(crate) mod path;
mod reference;
mod session;
mod tagging;
mod take;

use crate::code::{self, CodePattern, CodeTree, FullNames};
use crate::standards::Files;
use crate::syntax::{SyntaxError, Tree, ini, json, lines, properties, toml, xml, yaml};
use crate::types::tree::Members;
use crate::types::{self, CodeFile, Language, Maker};
use account::Unmatched;
use corvant_core::account::Account;
use corvant_core::facts::{Facts, Header, Named, Trouble, TroubleKind};
use corvant_core::name::Interner;
use corvant_core::source::{Source, SourceIndex, Span};
use corvant_core::wording::EditSort;
use field::Field;
pub(crate) use folder::{FolderFiles, error_in};
use globset::Glob;
use path::{Path, Selected};
use reference::Expression;
use regex::Regex;
use session::{CodeSide, Session};
use take::{Take, What};

/// The syntaxes that readers can be custom for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum ReaderSyntax {
    Yaml,
    Json,
    Toml,
    Xml,
    Ini,
    Properties,
    Records,
    Lines,
    /// What code declares: [`crate::types::tree`].
    Types,
    /// What code calls: [`crate::code`].
    Code,
}

impl ReaderSyntax {
    /// All of them, with the word for each.
    pub(crate) const ALL: [(&'static str, Self); 10] = [
        ("yaml", Self::Yaml),
        ("json", Self::Json),
        ("toml", Self::Toml),
        ("xml", Self::Xml),
        ("ini", Self::Ini),
        ("properties", Self::Properties),
        ("records", Self::Records),
        ("lines", Self::Lines),
        ("types", Self::Types),
        ("code", Self::Code),
    ];

    /// The word for it.
    pub(crate) fn word(self) -> &'static str {
        Self::ALL.iter().find(|(_, known)| *known == self).map_or("", |(word, _)| word)
    }

    /// What a file is written in by its ending, where that says it.
    pub(crate) fn of_ending(path: &str) -> Option<Self> {
        let ending = path.rsplit_once('.')?.1;
        let ending = if ending == "yml" { "yaml" } else { ending };
        Self::ALL[..6].iter().find(|(word, _)| *word == ending).map(|(_, syntax)| *syntax)
    }

    /// Whether values have kinds of their own; otherwise all are texts.
    fn has_kinds(self) -> bool {
        matches!(self, Self::Yaml | Self::Json | Self::Toml | Self::Types | Self::Code)
    }

    pub(crate) fn parse<'text>(
        self,
        text: &'text str,
        comment: Option<&str>,
        how: &Manners,
    ) -> Result<Tree<'text>, SyntaxError> {
        match self {
            Self::Yaml if how.yaml.local_tags || how.yaml.documents => yaml::parse_as(text, how.yaml),
            Self::Xml if how.plain_names => xml::parse_without_prefixes(text),
            Self::Yaml => yaml::parse(text),
            Self::Json => json::parse(text),
            Self::Toml => toml::parse(text),
            Self::Xml => xml::parse(text),
            Self::Ini => ini::parse(text),
            Self::Properties => properties::parse(text),
            Self::Records => lines::parse_records(text, comment),
            Self::Lines => Ok(lines::parse(text, comment)),
            // Its trees are made when all code is read.
            Self::Types | Self::Code => Ok(Tree::new(text)),
        }
    }
}

/// Which module a file belongs to.
#[derive(Debug, Clone)]
pub(crate) enum ModuleFrom {
    /// What the group `module` matches in the file's path.
    Path(Regex),
    /// What a field of the file says, or a constant.
    Field(Box<Field>),
}

/// A reader for one house format.
#[derive(Debug, Clone)]
pub struct CustomReader {
    /// Its name.
    pub(crate) name: String,
    /// Where the name stands in the workspace file.
    pub(crate) at: Span,
    pub(crate) globs: Vec<Glob>,
    pub(crate) syntax: ReaderSyntax,
    pub(crate) comment: Option<String>,
    pub(crate) module: ModuleFrom,
    pub(crate) uses: Option<Field>,
    pub(crate) takes: Vec<Take>,
    pub(crate) expressions: Vec<Expression>,
    /// Code that is a blind spot where nothing takes it.
    pub(crate) blind: Vec<CodePattern>,
    /// The language of its code.
    pub(crate) language: Option<Language>,
    /// What edits are called in the house.
    pub(crate) words: Vec<(EditSort, String)>,
    pub(crate) how: Manners,
    /// The reader whose takes, values and words count here too.
    pub(crate) like: Option<String>,
    /// The lifetimes that the workspace knows, once that is known.
    pub(crate) lifetimes: Vec<String>,
}

/// How a reader takes its files.
#[derive(Debug, Clone, Default)]
#[allow(clippy::struct_excessive_bools, reason = "each is a field of the format")]
pub(crate) struct Manners {
    /// What it does not look at is a mistake.
    pub(crate) closed: bool,
    /// What may be left over all the same.
    pub(crate) ignore: Vec<Path>,
    /// What only looks like a reference is a mistake.
    pub(crate) strict: bool,
    /// The files are the host's.
    pub(crate) trusted: bool,
    /// There may be nothing in a file.
    pub(crate) may_be_empty: bool,
    /// Names in XML count without their prefixes.
    pub(crate) plain_names: bool,
    /// A key that stands several times in one map is a list.
    pub(crate) repeats: bool,
    /// What else is read of YAML.
    pub(crate) yaml: yaml::Manner,
}

/// What a custom reader has at hand beside the file.
#[derive(Clone, Copy)]
pub(crate) struct Around<'a> {
    pub(crate) interner: &'a Interner,
    /// The files around it.
    pub(crate) files: &'a dyn Files,
    /// What some of them say for their folders.
    pub(crate) folders: &'a FolderFiles,
    /// What the file declares, if it is code.
    pub(crate) code: Option<(&'a CodeFile, Maker<'a>)>,
}

/// What a custom reader read.
pub(crate) struct Read {
    pub(crate) header: Header,
    pub(crate) facts: Facts,
    /// By other module what in the file belongs to that.
    pub(crate) parts: Vec<(Named, Facts)>,
    /// Values in which no reference was found, where that is asked.
    pub(crate) unmatched: Vec<Unmatched>,
    /// Why nothing was looked for in code.
    pub(crate) doubt: Option<String>,
}

impl CustomReader {
    /// Reads a file. The account, if asked for, says what was left over and where.
    pub(crate) fn read(
        &self,
        source: &Source,
        around: Around<'_>,
        account: Option<&mut Account>,
    ) -> Result<Read, SyntaxError> {
        let mut code = None;
        let tree = match around.code {
            Some((file, maker)) if self.syntax == ReaderSyntax::Code => {
                let CodeTree { tree, computed, order, blind, functions, doubt } =
                    code::of(file, maker, &source.text, self.members(), &self.asked());
                let names = FullNames::new(file, maker.resolver);
                code = Some(CodeSide { file, names, computed, order, blind, functions, doubt });
                tree
            }
            Some((file, maker)) => types::tree::of(file, maker, &source.text, self.members()),
            None => self.syntax.parse(&source.text, self.comment.as_deref(), &self.how)?,
        };
        let tree = if self.how.repeats { tree.with_repeated_as_lists() } else { tree };
        let mut session = Session::new(&tree, around, &source.path);
        session.has_kinds = self.syntax.has_kinds();
        session.is_code = self.is_for_types();
        session.code = code;
        session.lifetimes = &self.lifetimes;
        session.is_unmatched_asked = self.how.strict || account.is_some();
        let (reader, trusted) = (Some(around.interner.intern(&self.name)), self.how.trusted);
        let mut header = Header { reader, trusted, ..Header::default() };
        let roots = self.roots(&tree);
        for &root in &roots {
            session.root = root;
            header.module = header.module.or_else(|| self.module(&mut session, root));
            self.uses(&mut session, &mut header, root);
            session.module = header.module;
            take::all(self, &mut session, root);
        }
        self.attach_registered(&mut session);
        self.note_computed(&mut session, around.interner);
        let mut parts = session.parts_of_modules();
        if header.module.is_none() && session.facts.is_empty() && !parts.is_empty() {
            // All that is in the file belongs to modules that its items name.
            let (module, facts) = parts.remove(0);
            (header.module, session.facts) = (Some(module), facts);
        }
        // Of what a file of code declares, wiring is a small part.
        let is_code = self.is_for_types();
        header.left_over = if is_code { 0 } else { account::count_left_over(&session) };
        let troubles = account::troubles(&session);
        session.facts.troubles.extend(troubles);
        if self.how.closed {
            account::unknown(&mut session, self, &roots);
        }
        let unmatched = account::unmatched(&session);
        if let Some(account) = account {
            let line = |at| source.position(at).line;
            if account.tree.is_some() {
                account.tree = Some(account::tree_lines(&session, self, line));
            }
            account.left_over = if is_code { Vec::new() } else { account::left_over(&session, line) };
        }
        if header.module.is_none() {
            // That is the one fault; whose uses these are is not known.
            session.facts.uses.clear();
            session.facts.report(self.no_module(&source.path));
        } else if session.facts.is_empty()
            && parts.is_empty()
            && session.facts.troubles.is_empty()
            && !self.may_be_empty()
        {
            session.facts.report(self.nothing(&source.path));
        }
        Ok(Read {
            header,
            facts: session.facts,
            parts,
            unmatched,
            doubt: session.code.and_then(|code| code.doubt),
        })
    }

    /// Takes over what another reader says of its files; what this one says itself goes before it.
    pub(crate) fn take_over(&mut self, model: &Self) {
        self.takes.extend(model.takes.iter().cloned());
        self.expressions.extend(model.expressions.iter().cloned());
        let own = |sort: &EditSort| self.words.iter().any(|(known, _)| known == sort);
        let words: Vec<_> = model.words.iter().filter(|(sort, _)| !own(sort)).cloned().collect();
        self.words.extend(words);
    }

    /// Whether it reads what code declares or calls.
    pub(crate) fn is_for_types(&self) -> bool {
        matches!(self.syntax, ReaderSyntax::Types | ReaderSyntax::Code)
    }

    /// Whether it reads code in a language.
    pub(crate) fn reads(&self, language: Language) -> bool {
        self.language.is_none_or(|own| own == language)
    }

    /// Which members of types it looks at: there are many, and most readers ask for marks alone.
    pub(crate) fn members(&self) -> Members {
        // What patterns match has no members.
        let own = self.takes.iter().filter(|take| take.code.is_none()).flat_map(Take::paths);
        let fields = self.uses.iter().chain(match &self.module {
            ModuleFrom::Field(field) => Some(&**field),
            ModuleFrom::Path(_) => None,
        });
        let paths: Vec<&Path> = own.chain(fields.flat_map(Field::paths)).collect();
        let is_wide =
            |text: &str| text == "$" || text.contains("..") || text.replace("types[*]", "").contains('*');
        let asks_for_all = self.how.closed || paths.iter().any(|path| is_wide(&path.text));
        let asks = |member: &str| asks_for_all || paths.iter().any(|path| path.text.contains(member));
        Members { methods: asks("methods"), fields: asks("fields") }
    }

    /// Whether a value that only looks like a reference is a mistake in the file.
    pub(crate) fn is_strict(&self) -> bool {
        self.how.strict
    }

    /// The outermost values of a file: of each document, where there may be several.
    fn roots(&self, tree: &Tree<'_>) -> Vec<Selected> {
        let Some(root) = tree.root() else { return Vec::new() };
        if self.syntax == ReaderSyntax::Yaml && self.how.yaml.documents {
            tree.children(root).map(Selected::root).collect()
        } else {
            vec![Selected::root(root)]
        }
    }

    /// Whether there may be nothing in a file: there seldom are look-ups in each.
    fn may_be_empty(&self) -> bool {
        self.how.may_be_empty
            || self.is_for_types()
            || self.takes.iter().all(|take| take.what == What::LookUp)
    }

    /// Paths that selected nothing in any of the files that were read. Of a take without items, only its own is told.
    pub(crate) fn idle_paths(&self) -> Vec<Trouble> {
        // Each of its files has its finding then.
        if !self.may_be_empty() && self.takes.iter().all(|take| take.each.is_idle()) {
            return Vec::new();
        }
        let idle = self.takes.iter().flat_map(|take| {
            // What types seldom have is no mistake of who looks for it.
            let of_take = if take.each.is_idle() || self.is_for_types() {
                vec![&take.each]
            } else {
                take.paths().collect()
            };
            of_take.into_iter().filter(|path| path.is_idle())
        });
        let trouble = |path: &Path| {
            let message = format!("{} selects nothing", path.text);
            Trouble::new(TroubleKind::IdlePath, self.name.clone(), message, (path.at, "this path"))
        };
        idle.map(trouble).collect()
    }

    /// The names of all fields that it looks at.
    pub(crate) fn known_names(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.takes.iter().flat_map(Take::paths).flat_map(Path::names).collect();
        names.sort_unstable();
        names.dedup();
        names
    }

    fn module(&self, session: &mut Session<'_>, root: Selected) -> Option<Named> {
        let found = match &self.module {
            ModuleFrom::Field(field) => field.one(session, root)?,
            ModuleFrom::Path(regex) => {
                let captures = regex.captures(session.path)?;
                let module = captures.name("module").or_else(|| captures.get(0))?;
                session.nowhere(root, module.as_str().to_owned())
            }
        };
        session.module_text = found.text.to_string();
        Some(found.named(session))
    }

    fn uses(&self, session: &mut Session<'_>, header: &mut Header, root: Selected) {
        let Some(uses) = &self.uses else { return };
        header.uses_given = true;
        let used = uses.all(session, root);
        let used: Vec<Named> = used.iter().map(|found| found.named(session)).collect();
        session.facts.uses.extend(used.into_iter().map(|module| (SourceIndex::default(), module)));
    }

    fn no_module(&self, path: &str) -> Trouble {
        let message = format!("the reader {} does not find out which module {path} belongs to", self.name);
        let help = format!("see `module` of the reader {} in the workspace file", self.name);
        trouble(TroubleKind::WrongShape, "module", message, help)
    }

    fn nothing(&self, path: &str) -> Trouble {
        let message = format!("the reader {} takes nothing from {path}", self.name);
        let help = "see what is left over with `corvant audit --explain-readers`".to_owned();
        trouble(TroubleKind::Empty, path, message, help)
    }
}

fn trouble(kind: TroubleKind, subject: &str, message: String, help: String) -> Trouble {
    Trouble::new(kind, subject, message, (Span::at(0), "this file")).advice(help)
}
