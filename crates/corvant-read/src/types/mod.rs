//! The index of types: which types source files and class files declare. Nothing is compiled or run.
//!
//! A skim reads names, braces and the words before them, and leaves all else. Of a file in which it is in doubt the scopes
//! count as not known, and the file is a blind spot.

mod declarations;
mod lexer;

use crate::fence::fenced;
use corvant_core::facts::{DeclaredType, Facts, Header, Named, SourceKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::Interner;
use corvant_core::source::{Source, SourceIndex, Span};
use corvant_core::wiring::Manifest;
use std::ops::Range;

/// What the report calls who reads code.
pub(crate) const READER: &str = "types";

/// Larger files are in doubt unread, in bytes.
const SIZE_LIMIT: usize = 8 << 20;

/// What types are declared in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Language {
    Java,
    Kotlin,
    CSharp,
    Php,
    /// What a compiler made of a type, for the Java platform.
    ClassFile,
}

impl Language {
    /// What a file is written in, by its ending; `None`: nothing that declares types.
    pub(crate) fn of_ending(path: &str) -> Option<Self> {
        match path.rsplit_once('.')?.1 {
            "java" => Some(Self::Java),
            "kt" => Some(Self::Kotlin),
            "cs" => Some(Self::CSharp),
            "php" => Some(Self::Php),
            "class" => Some(Self::ClassFile),
            _ => None,
        }
    }
}

/// The types that a file declares; with a blind spot, if it could not be read for sure.
pub(crate) fn read(
    path: &str,
    bytes: &[u8],
    language: Language,
    interner: &Interner,
) -> (Manifest, Option<BlindSpot>) {
    let read = match language {
        Language::ClassFile => of_class_file(path, bytes, interner),
        _ => of_text(path, bytes, language, interner),
    };
    let (source, facts, doubt) = read;
    let blind_spot = doubt.map(|(at, why)| BlindSpot {
        kind: BlindSpotKind::DoubtfulCode,
        subject: path.to_owned(),
        message: format!(
            "{why} in line {}: which types it declares is not known for sure, and none of its scope is called missing",
            source.position(at as u32).line
        ),
        places: Vec::new(),
    });
    let header =
        Header { kind: SourceKind::Code, reader: Some(interner.intern(READER)), ..Header::default() };
    (Manifest { source, header, facts }, blind_spot)
}

type Doubted = Option<(usize, String)>;

fn of_text(path: &str, bytes: &[u8], language: Language, interner: &Interner) -> (Source, Facts, Doubted) {
    let mut facts = Facts::default();
    if bytes.len() > SIZE_LIMIT {
        let why = format!("the file is larger than {} MiB,", SIZE_LIMIT >> 20);
        facts.doubtful_scopes.push(None);
        return (Source::new(path.to_owned(), String::new()), facts, Some((0, why)));
    }
    let bytes = bytes.strip_prefix("\u{feff}".as_bytes()).unwrap_or(bytes);
    let text = String::from_utf8_lossy(bytes).into_owned();
    let doubt = match fenced(|| declarations::declarations(&text, language)) {
        Ok((found, doubt)) => {
            let declared = |name: &str, at: Range<usize>| DeclaredType {
                source: SourceIndex::OWN,
                name: Named { name: interner.intern(name), span: Span::new(at.start, at.end) },
            };
            let types = found.types.iter().map(|found| declared(&found.name, found.at.clone()));
            facts.declared_types.extend(types);
            if language == Language::Kotlin {
                // What stands outside of types is a type of its own for the platform, called after the file.
                let stem = path.rsplit('/').next().unwrap_or(path).trim_end_matches(".kt");
                let scope = found.scopes.first().map_or_else(String::new, |scope| format!("{scope}."));
                facts.declared_types.push(declared(&format!("{scope}{stem}Kt"), 0..0));
            }
            if doubt.is_some() {
                facts.doubtful_scopes.extend(found.scopes.iter().map(|scope| Some(interner.intern(scope))));
            }
            doubt.map(|doubt| (doubt.at, doubt.why.to_owned()))
        }
        Err(why) => Some((0, why)),
    };
    if doubt.is_some() && facts.doubtful_scopes.is_empty() {
        facts.doubtful_scopes.push(None);
    }
    (Source::new(path.to_owned(), text), facts, doubt)
}

fn of_class_file(path: &str, bytes: &[u8], interner: &Interner) -> (Source, Facts, Doubted) {
    let mut facts = Facts::default();
    let mut options = cafebabe::ParseOptions::default();
    options.parse_bytecode(false);
    let name = fenced(|| {
        let class = cafebabe::parse_class_with_options(bytes, &options).map_err(|error| error.to_string())?;
        Ok(class.this_class.replace(['/', '$'], "."))
    });
    let doubt = match name.and_then(|name: Result<String, String>| name) {
        // What describes a module or a package is no type.
        Ok(name) if name.ends_with("-info") => None,
        Ok(name) => {
            let name = Named { name: interner.intern(&name), span: Span::at(0) };
            facts.declared_types.push(DeclaredType { source: SourceIndex::OWN, name });
            None
        }
        Err(why) => {
            facts.doubtful_scopes.push(None);
            Some((0, format!("the class file cannot be read ({why})")))
        }
    };
    (Source::new(path.to_owned(), String::new()), facts, doubt)
}
