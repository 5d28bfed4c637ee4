//! One manifest: bytes to text, text to a tree, a tree to facts.

use crate::custom::account::Unmatched;
use crate::custom::{Around, CustomReader, Read};
use crate::syntax::{ManifestSyntax, NodeKind, SyntaxError, Tree};
use crate::{brackets, native, words};
use corvant_core::account::Account;
use corvant_core::facts::{Facts, Header, SourceKind, Trouble, TroubleKind, Unread};
use corvant_core::finding::Fix;
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use corvant_core::wiring::Manifest;

/// Texts of this size and more have no places: spans are 32 bits wide.
const TOO_LARGE: usize = u32::MAX as usize;

/// Reads the bytes of one manifest. `path` is relative to the root of the workspace.
pub fn from_bytes(path: String, bytes: Vec<u8>, interner: &Interner) -> Manifest {
    match source(path, bytes, interner) {
        Ok(source) => from_source(source, interner),
        Err(manifest) => *manifest,
    }
}

/// The text of a file, without a byte-order mark; or what to say of one that is no text.
pub(crate) fn source(path: String, bytes: Vec<u8>, interner: &Interner) -> Result<Source, Box<Manifest>> {
    if bytes.len() >= TOO_LARGE {
        return Err(Box::new(unreadable(path, "it is larger than 4 GiB", TroubleKind::Unreadable)));
    }
    match String::from_utf8(bytes) {
        Ok(mut text) => {
            if text.starts_with('\u{feff}') {
                text.remove(0);
            }
            Ok(Source::new(path, text))
        }
        Err(error) => {
            let at = error.utf8_error().valid_up_to();
            let text = String::from_utf8_lossy(error.as_bytes()).into_owned();
            let message = format!("not UTF-8 text: byte {at} begins no character");
            let mut unread = words::unread(&text, interner);
            // A file in another encoding has no words that could be trusted.
            unread.opaque = text.contains('\0');
            let span = Span::new(at, at + char::REPLACEMENT_CHARACTER.len_utf8());
            let place = (span, "reading stopped here");
            let mut manifest = broken(Source::new(path, text), &message, place, unread);
            if error.as_bytes().starts_with(&[0xff, 0xfe]) || error.as_bytes().starts_with(&[0xfe, 0xff]) {
                manifest.facts.troubles[0].fixes =
                    vec![Fix::advice("it looks like UTF-16: save it as UTF-8")];
            }
            Err(Box::new(manifest))
        }
    }
}

/// Reads the text of one manifest, in the syntax that the ending of its path names (YAML, if it names none).
pub fn from_text(path: String, mut text: String, interner: &Interner) -> Manifest {
    if text.starts_with('\u{feff}') {
        text.remove(0);
    }
    from_source(Source::new(path, text), interner)
}

/// The same where it is known that it is text.
pub(crate) fn from_source(source: Source, interner: &Interner) -> Manifest {
    let path = &source.path;
    let syntax = ManifestSyntax::of_manifest(path).unwrap_or(ManifestSyntax::Yaml);
    let parsed = syntax.parse(&source.text).map(|tree| {
        let (header, mut facts) = native::read(&tree, interner);
        if is_empty(&tree, &header, &facts) {
            facts.troubles = vec![empty(path)];
        }
        (header, facts)
    });
    match parsed {
        Ok((header, facts)) => Manifest { source, header, facts },
        Err(error) => not_well_formed(source, &error, interner),
    }
}

/// Reads a file with a reader that the workspace teaches.
pub(crate) fn from_custom_reader(
    source: Source,
    reader: &CustomReader,
    around: Around<'_>,
    account: Option<&mut Account>,
) -> HouseFile {
    match reader.read(&source, around, account) {
        Ok(Read { header, facts, parts, unmatched, doubt }) => {
            let part = |(module, facts)| Manifest {
                source: source.again(),
                header: Header {
                    module: Some(module),
                    kind: SourceKind::Part,
                    left_over: 0,
                    uses_given: false,
                    ..header.clone()
                },
                facts,
            };
            let parts = parts.into_iter().map(part).collect();
            HouseFile { manifest: Manifest { source, header, facts }, parts, unmatched, doubt }
        }
        Err(error) => {
            let mut manifest = not_well_formed(source, &error, around.interner);
            manifest.header.reader = Some(around.interner.intern(&reader.name));
            HouseFile { manifest, parts: Vec::new(), unmatched: Vec::new(), doubt: None }
        }
    }
}

/// What a custom reader made of a file.
pub(crate) struct HouseFile {
    pub(crate) manifest: Manifest,
    /// What in it belongs to other modules.
    pub(crate) parts: Vec<Manifest>,
    /// Values in which no reference was found.
    pub(crate) unmatched: Vec<Unmatched>,
    /// Why nothing was looked for in code.
    pub(crate) doubt: Option<String>,
}

/// A file whose syntax is broken.
pub(crate) fn not_well_formed(source: Source, error: &SyntaxError, interner: &Interner) -> Manifest {
    let unread = words::unread(&source.text, interner);
    let place = (error.span, "reading stopped here");
    let open = brackets::innermost_open(&source.text, error.span.start as usize);
    let mut manifest = broken(source, &error.message, place, unread);
    manifest.facts.troubles[0].other = open.map(|at| (Span::new(at, at + 1), "this is still open there"));
    manifest
}

/// A file or folder that could not even be opened.
pub fn unreadable(path: String, why: &str, kind: TroubleKind) -> Manifest {
    let unread = Unread { opaque: true, ..Unread::default() };
    let mut manifest = broken(Source::new(path, String::new()), why, (Span::at(0), "here"), unread);
    manifest.facts.troubles[0].kind = kind;
    manifest
}

/// A link that leads nowhere. Its message is what it does, as a clause.
pub(crate) fn dead_link(path: &str, to: &str) -> Manifest {
    let unread = Unread { opaque: true, ..Unread::default() };
    let message = format!("leads to {to}, which is not there");
    let trouble = Trouble::new(TroubleKind::DeadLink, path, message, (Span::at(0), "here")).hiding(unread);
    let facts = Facts { troubles: vec![trouble], ..Facts::default() };
    Manifest { source: Source::new(path.to_owned(), String::new()), header: Header::default(), facts }
}

fn broken(source: Source, message: &str, at: (Span, &'static str), unread: Unread) -> Manifest {
    let subject = source.path.clone();
    let message = format!("{subject} could not be read: {message}");
    let trouble = Trouble::new(TroubleKind::Unreadable, subject, message, at)
        .advice("correct it and audit again: what else is wrong in it shows then")
        .hiding(unread);
    let facts = Facts { troubles: vec![trouble], ..Facts::default() };
    Manifest { source, header: Header::default(), facts }
}

/// Whether a well-formed manifest says nothing about the wiring.
fn is_empty(tree: &Tree<'_>, header: &Header, facts: &Facts) -> bool {
    let says_something = |root| tree.kind(root) == NodeKind::Map && tree.fields(root).count() > 2;
    let nothing_there = tree.root().is_none_or(|root| tree.kind(root) == NodeKind::Null);
    let only_a_header = facts.troubles.is_empty()
        && !header.uses_given
        && tree.root().is_some_and(|root| tree.kind(root) == NodeKind::Map && !says_something(root));
    nothing_there || only_a_header
}

fn empty(path: &str) -> Trouble {
    let message = format!("{path} defines nothing");
    Trouble::new(TroubleKind::Empty, path, message, (Span::at(0), "this file"))
        .advice("restore what it held, or remove it")
}
