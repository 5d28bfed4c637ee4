//! D-Bus activation files (D-Bus Specification, "Message Bus Starting Services"): `*.service` with a section
//! `[D-BUS Service]`.
//!
//! The contract is the bus name, the service is the file, and the key is the bus: session and system are two worlds.
//! Which bus a file is for is told by its folder (`services`, `system-services`), or by `User`, which only the
//! system bus has. Two files in one folder for one name clash; of two folders the earlier in the bus's search path
//! wins, which is normal.

use super::{One, Reading, Standard, has_ending, parts};
use crate::manifest::not_well_formed;
use crate::syntax::{SyntaxError, Tree, ini};
use corvant_core::facts::{Facts, Header, Many, Named, Service, Trouble, TroubleKind};
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use corvant_core::wording::EditSort;

const SECTION: &str = "D-BUS Service";
/// Bus names are not longer, in bytes.
const LONGEST: usize = 255;

/// Its name.
pub(super) const NAME: &str = "activation-files";
/// What is read.
pub(super) const ABOUT: &str = "Activation files of message buses";

/// Activation files.
pub(super) struct ActivationFiles;

impl Standard for ActivationFiles {
    fn name(&self) -> &'static str {
        NAME
    }

    fn claims(&self, path: &str) -> bool {
        has_ending(path, ".service")
    }

    /// Others have names that end in `.service`.
    fn is_sure(&self, path: &str) -> bool {
        path.split('/').any(|folder| folder == "dbus-1")
    }

    /// The bus that its files are for.
    fn world(&self, folder: &str) -> Option<&'static str> {
        bus(folder, false)
    }

    fn installs(&self, folder: &str, name: &str) -> bool {
        let (above, own) = parts(folder);
        let is_of_bus = parts(above).1 == "dbus-1" && matches!(own, "services" | "system-services");
        is_of_bus && has_ending(name, ".service")
    }

    fn words(&self) -> &'static [(EditSort, &'static str)] {
        &[
            (EditSort::Default, "keep {} and take the others out"),
            (EditSort::Offer, "install an activation file that says `Name={}`"),
        ]
    }

    fn read(&self, at: &Reading<'_>, path: &str, bytes: Vec<u8>) -> Vec<One> {
        let source = match at.text(path, bytes) {
            Ok(source) => source,
            Err(unread) => return vec![*unread],
        };
        let manifest = match read(&source, at.interner) {
            Ok(read) => read.map(|(header, facts)| at.manifest(source, header, facts, NAME)),
            Err(error) => Some(not_well_formed(source, &error, at.interner)),
        };
        manifest.map(One::plain).into_iter().collect()
    }
}

/// The facts of one file; `None`: it is a file of something else with the same ending.
fn read(source: &Source, interner: &Interner) -> Result<Option<(Header, Facts)>, SyntaxError> {
    if !source.text.contains(SECTION) {
        return Ok(None);
    }
    let tree = ini::parse_flat(&source.text)?;
    let Some(root) = tree.root() else { return Ok(None) };
    let Some(section) = tree.field(root, SECTION) else { return Ok(None) };
    let mut facts = Facts::default();
    let (folder, file) = source.path.rsplit_once('/').unwrap_or((".", &source.path));
    let field = |wanted: &str| tree.fields(section).find(|(key, _)| tree.text(*key) == wanted);
    let mut seen = foldhash::HashSet::default();
    for (key, _) in tree.fields(section) {
        if !seen.insert(tree.text(key)) {
            let message = format!("`{}` stands twice; only one of them counts", tree.text(key));
            facts.report(trouble(TroubleKind::RepeatedField, &path(tree.text(key)), message, tree.span(key)));
        }
    }
    let program = field("Exec").map(|(_, value)| value);
    if program.is_none() && field("SystemdService").is_none() {
        let message = "the file does not say what is started: `Exec` is missing".to_owned();
        facts.report(trouble(TroubleKind::WrongShape, &path("Exec"), message, Span::at(0)));
    }
    let bus = bus(folder, field("User").is_some());
    match field("Name") {
        None => {
            let message = "the file does not say which name it starts: `Name` is missing".to_owned();
            facts.report(trouble(TroubleKind::WrongShape, &path("Name"), message, Span::at(0)));
        }
        Some((_, value)) => {
            if let Some(trouble) = name_trouble(&tree, value, file, bus) {
                facts.report(trouble);
            }
            let id = Named { name: interner.intern(&source.path), span: tree.span(value) };
            let mut service = Service::new(id);
            service.type_name = program
                .map(|program| Named { name: interner.intern(tree.text(program)), span: tree.span(program) });
            facts.parts.named.push(Named { name: interner.intern(tree.text(value)), span: tree.span(value) });
            service.offers = Many::since(0, &facts.parts);
            service.key = bus.map(|bus| Named { name: interner.intern(bus), span: tree.span(value) });
            service.of_standard.installed = Some(interner.intern(folder));
            facts.services.push(service);
        }
    }
    let module = Named { name: interner.intern(folder), span: Span::at(0) };
    Ok(Some((Header { module: Some(module), ..Header::default() }, facts)))
}

fn bus(folder: &str, has_user: bool) -> Option<&'static str> {
    match folder.rsplit('/').next() {
        Some("system-services") => Some("system"),
        Some("services") => Some("session"),
        _ if has_user => Some("system"),
        _ => None,
    }
}

fn path(field: &str) -> String {
    format!("{SECTION}.{field}")
}

/// What is wrong with a name, or with a file that is not called after it.
fn name_trouble(
    tree: &Tree<'_>,
    value: crate::syntax::NodeId,
    file: &str,
    bus: Option<&str>,
) -> Option<Trouble> {
    let name = tree.text(value);
    let stem = file.strip_suffix(".service").unwrap_or(file);
    let (message, help) = if !is_bus_name(name) {
        (
            "this is no bus name, so nothing can ask for it".to_owned(),
            "write one such as org.velmora.Clock1".to_owned(),
        )
    } else if stem != name && stem.eq_ignore_ascii_case(name) {
        let message = format!("the file is called {file}: name and file differ in letter case alone");
        (message, format!("call both {name}, or both {stem}"))
    } else if stem != name && bus == Some("system") {
        let message = format!(
            "the file is called {file}: the system bus reads a name from a file called after it only"
        );
        (message, format!("call the file {name}.service"))
    } else {
        return None;
    };
    Some(trouble(TroubleKind::WrongShape, &path("Name"), message, tree.span(value)).advice(help))
}

/// Whether a text is a well-known bus name (D-Bus Specification, "Bus names").
fn is_bus_name(text: &str) -> bool {
    let is_element = |part: &str| {
        !part.is_empty()
            && !part.starts_with(|letter: char| letter.is_ascii_digit())
            && part.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_' || byte == b'-')
    };
    text.len() <= LONGEST && text.contains('.') && text.split('.').all(is_element)
}

fn trouble(kind: TroubleKind, subject: &str, message: String, span: Span) -> Trouble {
    Trouble::new(kind, subject, message, (span, "here"))
}
