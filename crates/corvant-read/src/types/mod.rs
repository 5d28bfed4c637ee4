//! The index of types: which types source files and class files declare. Nothing is compiled or run.
//!
//! A skim reads names, braces and the words before them, and leaves all else. Of a file in which it is in doubt the scopes
//! count as not known, and the file is a blind spot; what of it a parser finds whole is skimmed all the same.

mod class_file;
mod facts;
mod header;
mod imports;
mod lexer;
mod marks;
mod members;
pub(crate) mod outline;
mod python;
mod resolve;
mod skim;
mod snippet;
mod standard_library;
#[cfg(test)]
mod tests;
mod tokens;
pub(crate) mod tree;
mod type_use;
pub(crate) mod wires;

use crate::cache::Outlines;
use crate::code;
use crate::fence::fenced;
use crate::standards::archive::Effort;
use corvant_core::facts::{Facts, Header, SourceKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::Interner;
use corvant_core::source::Source;
use corvant_core::wiring::Manifest;
pub(crate) use facts::{Maker, Memo};
use outline::Outline;
pub(crate) use resolve::{CodeFile, Place as TypePlace, Resolver};
use serde::{Deserialize, Serialize};
pub(crate) use snippet::{literal_of, too_deep, type_of, words_of};

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
    TypeScript,
    Python,
    /// What a compiler made of a type, for the Java platform.
    ClassFile,
}

impl Language {
    /// Those that have source code, with the word for each.
    pub(crate) const WRITTEN: [(&'static str, Self); 6] = [
        ("java", Self::Java),
        ("kotlin", Self::Kotlin),
        ("csharp", Self::CSharp),
        ("php", Self::Php),
        ("typescript", Self::TypeScript),
        ("python", Self::Python),
    ];

    /// The one that a word stands for, of those that have source code.
    pub(crate) fn of_word(word: &str) -> Option<Self> {
        Self::WRITTEN.iter().find(|(known, _)| *known == word).map(|(_, language)| *language)
    }

    /// What a file is written in, by its ending; `None`: nothing that declares types.
    pub(crate) fn of_ending(path: &str) -> Option<Self> {
        match path.rsplit_once('.')?.1 {
            "java" => Some(Self::Java),
            "kt" => Some(Self::Kotlin),
            "cs" => Some(Self::CSharp),
            "php" => Some(Self::Php),
            "ts" | "tsx" => Some(Self::TypeScript),
            "py" | "pyi" => Some(Self::Python),
            "class" | "jar" => Some(Self::ClassFile),
            _ => None,
        }
    }
}

/// How much of the methods of types is read: constructors are always read whole.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Methods {
    /// All that they are declared with.
    Whole,
    /// What they are called: that is all that findings depend on.
    Names,
}

/// A file of code as it was read: what names in it stand for is known once all files are.
#[derive(Debug)]
pub(crate) struct CodeRead {
    /// The file, without what is in it.
    pub(crate) manifest: Manifest,
    /// What could not be read for sure.
    pub(crate) blind_spot: Option<BlindSpot>,
    pub(crate) file: CodeFile,
}

impl CodeRead {
    /// What a file declares; if there is any doubt about it, in words, of which scopes: `None` of whatever scope.
    fn new(
        file: CodeFile,
        source: Source,
        doubt: Option<(String, Vec<Option<String>>)>,
        interner: &Interner,
    ) -> Self {
        let mut facts = Facts::default();
        let blind_spot = doubt.map(|(message, scopes)| {
            let scopes = scopes.iter().map(|scope| scope.as_ref().map(|scope| interner.intern(scope)));
            facts.doubtful_scopes.extend(scopes);
            let (kind, subject) = (BlindSpotKind::DoubtfulCode, file.path.clone());
            BlindSpot { kind, subject, message, places: Vec::new() }
        });
        let reader = Some(interner.intern(READER));
        let header = Header { kind: SourceKind::Code, reader, ..Header::default() };
        Self { manifest: Manifest { source, header, facts }, blind_spot, file }
    }
}

/// What a file declares.
pub(crate) fn read(
    path: &str,
    bytes: Vec<u8>,
    (language, methods): (Language, Methods),
    kept: Option<&Outlines<'_>>,
    interner: &Interner,
) -> CodeRead {
    let (text, outline, doubt) = match language {
        Language::ClassFile => of_class_file(&bytes),
        _ => of_text(path, bytes, (language, methods), kept),
    };
    let source = Source::new(path.to_owned(), text);
    let doubt = doubt.map(|(at, why)| {
        let message = format!(
            "{why} in line {}: which types it declares is not known for sure, and none of its scope is called missing",
            source.position(at as u32).line
        );
        let scopes: Vec<_> = outline.scopes.iter().cloned().map(Some).collect();
        (message, if scopes.is_empty() { vec![None] } else { scopes })
    });
    CodeRead::new(CodeFile { path: path.to_owned(), language, outline }, source, doubt, interner)
}

type Read = (String, Outline, Option<(usize, String)>);

fn of_text(
    path: &str,
    bytes: Vec<u8>,
    (language, methods): (Language, Methods),
    kept: Option<&Outlines<'_>>,
) -> Read {
    if bytes.len() > SIZE_LIMIT {
        let why = format!("the file is larger than {} MiB,", SIZE_LIMIT >> 20);
        return (String::new(), Outline::default(), Some((0, why)));
    }
    let text = String::from_utf8(bytes);
    let mut text = text.unwrap_or_else(|error| String::from_utf8_lossy(error.as_bytes()).into_owned());
    if text.starts_with('\u{feff}') {
        text.remove(0);
    }
    let scope = scope_of_path(path, language);
    let kept = kept.map(|kept| (kept, Outlines::key(&text, (language, methods), &scope)));
    if let Some(known) = kept.and_then(|(kept, key)| kept.find(path, key)) {
        return (text, known, None);
    }
    match fenced(|| skim::outline(&text, language, &scope, methods)) {
        Ok((outline, None)) => {
            if let Some((kept, key)) = kept {
                kept.add(path, key);
            }
            (text, outline, None)
        }
        Ok((outline, Some(doubt))) => {
            let healed = fenced(|| healed(&text, path, (language, methods), &scope)).ok().flatten();
            let seen = outline.scopes.clone();
            let mut known = healed.unwrap_or(outline);
            if seen.is_empty() {
                // A mistake may hide which scope it is: the file may be of any.
                known.scopes.clear();
            }
            let more: Vec<String> = seen.into_iter().filter(|scope| !known.scopes.contains(scope)).collect();
            known.scopes.extend(more);
            (text, known, Some((doubt.at, doubt.why.to_owned())))
        }
        Err(why) => (text, Outline::default(), Some((0, why))),
    }
}

/// What a text declares in which the skim is in doubt: once what a parser cannot fit in is left out, if that leaves none.
fn healed(text: &str, path: &str, (language, methods): (Language, Methods), scope: &str) -> Option<Outline> {
    let texts = code::without_misfits(text, path, language);
    let mut skimmed = texts.iter().map(|text| skim::outline(text, language, scope, methods));
    skimmed.find_map(|(outline, doubt)| doubt.is_none().then_some(outline))
}

/// What the class files in a jar declare.
#[derive(Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct JarTypes {
    outline: Outline,
    /// The paths of those that cannot be read, and why.
    doubts: Vec<(String, String)>,
    /// What it took to unpack them.
    pub(crate) effort: Effort,
}

impl JarTypes {
    /// Of class files, with their paths in the jar.
    pub(crate) fn new(classes: Vec<(String, Vec<u8>)>, effort: Effort) -> Self {
        let mut jar = Self { effort, ..Self::default() };
        for (inner, bytes) in classes {
            let (_, one, doubt) = of_class_file(&bytes);
            jar.outline.types.extend(one.types);
            jar.doubts.extend(doubt.map(|(_, why)| (inner, why)));
        }
        jar
    }

    /// The same as a file of code.
    pub(crate) fn read(self, path: &str, interner: &Interner) -> CodeRead {
        let Self { outline, doubts, .. } = self;
        let scope = |inner: &str| {
            inner.rsplit_once('/').map_or_else(String::new, |(folder, _)| folder.replace('/', "."))
        };
        let doubt = doubts.first().map(|(inner, why)| {
            let more = doubts.len() - 1;
            let message =
                format!("{why}: {inner} and {more} more in it, of whose packages no type is called missing");
            (message, doubts.iter().map(|(inner, _)| Some(scope(inner))).collect())
        });
        let file = CodeFile { path: path.to_owned(), language: Language::ClassFile, outline };
        CodeRead::new(file, Source::new(path.to_owned(), String::new()), doubt, interner)
    }
}

fn of_class_file(bytes: &[u8]) -> Read {
    match fenced(|| class_file::outline(bytes)).and_then(|outline| outline) {
        Ok(outline) => (String::new(), outline, None),
        Err(why) => {
            (String::new(), Outline::default(), Some((0, format!("the class file cannot be read ({why})"))))
        }
    }
}

/// The scope that a file is by its place: its path without the ending, or the module that it is.
fn scope_of_path(path: &str, language: Language) -> String {
    let stem = path.rsplit_once('.').map_or(path, |(stem, _)| stem);
    match language {
        Language::TypeScript => stem.strip_suffix(".d").unwrap_or(stem).to_owned(),
        Language::Python => {
            // What sources lie below is no package.
            let below = stem.rfind("/src/").map(|at| &stem[at + "/src/".len()..]);
            let stem = below.or_else(|| stem.strip_prefix("src/")).unwrap_or(stem);
            let stem = stem.strip_suffix("/__init__").unwrap_or(stem);
            stem.replace('/', ".")
        }
        _ => String::new(),
    }
}
