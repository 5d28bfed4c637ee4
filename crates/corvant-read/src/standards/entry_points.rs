//! Entry points of distributions (PyPA specifications: entry points, core metadata, recording installed projects).
//!
//! A distribution is a module; a group is a contract, a name in it the key. The service is called
//! `distribution:group/name`, since one object often stands under several names; its type is the module that the
//! object reference names. Within one distribution names of a group are unique. Of different distributions the
//! specification leaves equal names to the reader of the group; only the scripts of `console_scripts` and
//! `gui_scripts`, of which each becomes a file, can overwrite one another, and only in one folder: wheels that lie side
//! by side are not installed.

use super::{Archive, One, Reading, Standard, folder_above, has_ending, parts};
use crate::manifest::not_well_formed;
use crate::syntax::{NodeId, SyntaxError, Tree, ini};
use corvant_core::facts::{
    Contract, Facts, Header, Many, MeantFor, Named, Service, SourceKind, Trouble, TroubleKind,
};
use corvant_core::name::Interner;
use corvant_core::source::{Source, SourceIndex, Span};
use corvant_core::wiring::Manifest;
use foldhash::{HashMap, HashMapExt};
use std::path::Path;

/// Groups of which each name becomes a file in one folder.
const SCRIPTS: [&str; 2] = ["console_scripts", "gui_scripts"];

/// Its name.
pub(super) const NAME: &str = "entry-points";
/// What is read.
pub(super) const ABOUT: &str = "Entry points of distributions and wheels";

/// Entry points.
pub(super) struct EntryPoints;

impl Standard for EntryPoints {
    fn name(&self) -> &'static str {
        NAME
    }

    fn claims(&self, path: &str) -> bool {
        let (folder, file) = parts(path);
        let is_installed =
            folder.ends_with(".dist-info") && matches!(file, "entry_points.txt" | "METADATA" | "RECORD");
        is_installed || is_of_older_kind(path) || has_ending(path, ".whl")
    }

    fn read(&self, at: &Reading<'_>, path: &str, bytes: Vec<u8>) -> Vec<One> {
        let source = match at.text(path, bytes) {
            Ok(source) => source,
            Err(unread) => return vec![*unread],
        };
        let manifest = match parts(path).1 {
            _ if is_of_older_kind(path) => of_older_kind(at, path),
            "entry_points.txt" => installed(at, source),
            "METADATA" => described(at, source),
            _ => recorded_modules(at, &source),
        };
        vec![One::plain(manifest)]
    }

    fn read_archive(&self, at: &Reading<'_>, archive: &mut Archive<'_>) {
        wheel(at, archive);
    }
}

/// Whether a file says that a distribution was installed in an older way: it is there, and no more is known.
fn is_of_older_kind(path: &str) -> bool {
    let (folder, file) = parts(path);
    has_ending(path, ".egg-info") || (file == "PKG-INFO" && folder.ends_with(".egg-info"))
}

fn installed(at: &Reading<'_>, source: Source) -> Manifest {
    let (folder, _) = source.path.rsplit_once('/').unwrap_or((".", ""));
    let (installed, own) = folder.rsplit_once('/').unwrap_or((".", folder));
    let beside = |file: &str| {
        let bytes = at.files.read(&format!("{folder}/{file}"))?.ok()?;
        String::from_utf8(bytes).ok()
    };
    let record = beside("RECORD");
    let is_listed = record.is_some_and(|record| !is_link(recorded(&record)));
    let extras = beside("METADATA").map(|text| metadata(&text).extras);
    let distribution = distribution(own).to_owned();
    let installed = installed.to_owned();
    let place = Installation {
        distribution: &distribution,
        installed: &installed,
        are_modules_listed: is_listed,
        extras,
    };
    match read(&source, &place, at.interner) {
        Ok((header, facts)) => at.manifest(source, header, facts, NAME),
        Err(error) => not_well_formed(source, &error, at.interner),
    }
}

fn described(at: &Reading<'_>, mut source: Source) -> Manifest {
    let folder = folder_above(&source.path, 1);
    let own = folder.rsplit('/').next().unwrap_or(&folder);
    let (header, facts) = read_metadata(&mut source, distribution(own), at.interner);
    at.manifest(source, header, facts, NAME)
}

fn recorded_modules(at: &Reading<'_>, source: &Source) -> Manifest {
    let facts = modules(recorded(&source.text), at.interner);
    let header = Header { kind: SourceKind::Container, ..Header::default() };
    Manifest { source: Source::new(source.path.clone(), String::new()), header, facts }
}

fn of_older_kind(at: &Reading<'_>, path: &str) -> Manifest {
    let folder = path.strip_suffix("/PKG-INFO").unwrap_or(path);
    let own = folder.rsplit('/').next().unwrap_or(folder);
    let module = normalized(distribution(own));
    let header = at.header(&module);
    let source = Source::new(path.to_owned(), String::new());
    at.manifest(source, header, Facts::default(), NAME)
}

/// A built distribution that is not installed.
fn wheel(at: &Reading<'_>, archive: &mut Archive<'_>) {
    let paths = archive.paths();
    let names = || paths.iter().map(String::as_str);
    let facts = modules(names(), at.interner);
    let find = |file: &str| {
        paths.iter().position(|path| {
            path.strip_suffix(file)
                .is_some_and(|folder| folder.ends_with(".dist-info/") && folder.matches('/').count() == 1)
        })
    };
    let bytes = find("METADATA").and_then(|number| archive.bytes(number, &paths[number]));
    let extras = bytes.map(|bytes| metadata(&String::from_utf8_lossy(&bytes)).extras);
    if let Some(number) = find("entry_points.txt")
        && let Some(source) = archive.text(number, &paths[number], at)
    {
        let folder = paths[number].split('/').next().unwrap_or_default();
        let distribution = distribution(folder);
        let place = Installation {
            distribution,
            installed: archive.path,
            are_modules_listed: !is_link(names()),
            extras,
        };
        let manifest = match read(&source, &place, at.interner) {
            Ok((header, facts)) => at.manifest(source, header, facts, NAME),
            Err(error) => not_well_formed(source, &error, at.interner),
        };
        archive.ones.push(One::plain(manifest));
    }
    let header = Header { kind: SourceKind::Container, ..Header::default() };
    let source = Source::new(archive.path.to_owned(), String::new());
    archive.ones.push(One::plain(Manifest { source, header, facts }));
}

/// The name of a distribution as it is compared (PyPA, "Names and normalization").
fn normalized(name: &str) -> String {
    let mut text = String::with_capacity(name.len());
    for letter in name.chars() {
        match letter {
            '-' | '_' | '.' if text.ends_with('-') => {}
            '-' | '_' | '.' => text.push('-'),
            _ => text.extend(letter.to_lowercase()),
        }
    }
    text
}

/// The distribution whose files lie in a folder such as `velmora_voice-1.0.dist-info`.
fn distribution(folder: &str) -> &str {
    let stem =
        folder.strip_suffix(".dist-info").or_else(|| folder.strip_suffix(".egg-info")).unwrap_or(folder);
    stem.split('-').next().unwrap_or(stem)
}

/// Where the distribution of a file is installed, and what is known of it.
struct Installation<'a> {
    /// The distribution, as its folder says.
    pub(crate) distribution: &'a str,
    /// The folder of distributions, or the wheel.
    pub(crate) installed: &'a str,
    /// Whether all modules of the distribution are listed.
    pub(crate) are_modules_listed: bool,
    /// The extras that the distribution has, if that is known.
    pub(crate) extras: Option<Vec<String>>,
}

/// The facts of one `entry_points.txt`.
fn read(
    source: &Source,
    place: &Installation<'_>,
    interner: &Interner,
) -> Result<(Header, Facts), SyntaxError> {
    let tree = ini::parse_flat(&source.text)?;
    let mut reader = EntryPointReader { tree: &tree, place, interner, facts: Facts::default() };
    for (key, value) in tree.root().into_iter().flat_map(|root| tree.fields(root)) {
        if matches!(tree.kind(value), crate::syntax::NodeKind::Map) {
            reader.group(key, value);
        } else {
            let message = "an entry stands before the first group".to_owned();
            reader.wrong(tree.text(key).to_owned(), message, tree.span(key));
        }
    }
    let module = Named { name: interner.intern(&normalized(place.distribution)), span: Span::at(0) };
    let facts = reader.facts;
    Ok((Header { module: Some(module), ..Header::default() }, facts))
}

struct EntryPointReader<'a> {
    tree: &'a Tree<'a>,
    place: &'a Installation<'a>,
    interner: &'a Interner,
    facts: Facts,
}

/// The parts of an object reference: `module:attribute [extra, extra]`.
struct ObjectReference<'text> {
    module: &'text str,
    attribute: Option<&'text str>,
    extras: Vec<&'text str>,
}

impl EntryPointReader<'_> {
    fn wrong(&mut self, subject: String, message: String, span: Span) {
        self.facts.report(Trouble::new(TroubleKind::WrongShape, subject, message, (span, "here")));
    }

    fn group(&mut self, key: NodeId, entries: NodeId) {
        let tree = self.tree;
        let text = tree.text(key).trim();
        let group = Named { name: self.interner.intern(text), span: tree.span(key) };
        if !SCRIPTS.contains(&text) {
            let meant_for = Some((MeantFor::All, group.span));
            let (extends, keys) = (Many::default(), Many::default());
            let source = SourceIndex::default();
            self.facts.contracts.push(Contract { source, contract: group, extends, meant_for, keys });
        }
        let mut known: HashMap<&str, Span> = HashMap::new();
        for (name, value) in tree.fields(entries) {
            if let Some(first) = known.insert(tree.text(name), tree.span(name)) {
                let message =
                    format!("{} stands twice in the group {text}; one of the two is lost", tree.text(name));
                let subject = format!("{text}.{}", tree.text(name));
                let again = (tree.span(name), "here");
                let trouble = Trouble::new(TroubleKind::RepeatedField, subject, message, again);
                self.facts.report(trouble.beside((first, "first here")));
                continue;
            }
            self.entry(group, text, name, value);
        }
    }

    fn entry(&mut self, group: Named, group_text: &str, name: NodeId, value: NodeId) {
        let tree = self.tree;
        let (name_text, written) = (tree.text(name), tree.text(value));
        let subject = || format!("{group_text}.{name_text}");
        let Some(reference) = reference(written) else {
            let message = format!("{written} is no object reference, so loading {name_text} fails");
            let trouble =
                Trouble::new(TroubleKind::WrongShape, subject(), message, (tree.span(value), "here"));
            self.facts.report(trouble.advice("write `module.name:attribute`"));
            return;
        };
        if SCRIPTS.contains(&group_text) && reference.attribute.is_none() {
            let message = format!("the script {name_text} names a module and no function to call");
            self.wrong(subject(), message, tree.span(value));
        }
        for &extra in &reference.extras {
            let has_extra = self.place.extras.as_ref().is_none_or(|known| known.contains(&normalized(extra)));
            if !has_extra {
                let distribution = self.place.distribution;
                let message =
                    format!("{name_text} depends on the extra {extra}, which {distribution} does not have");
                self.wrong(subject(), message, tree.span(value));
            }
        }
        let is_conditional = !reference.extras.is_empty();
        let id = format!("{}:{group_text}/{name_text}", normalized(self.place.distribution));
        let mut service = Service::new(Named { name: self.interner.intern(&id), span: tree.span(name) });
        let module = self.interner.intern(reference.module);
        service.type_name = Some(Named { name: module, span: tree.part(value, 0..reference.module.len()) });
        let start = self.facts.parts.named.len();
        self.facts.parts.named.push(group);
        service.offers = Many::since(start, &self.facts.parts);
        service.key = Some(Named { name: self.interner.intern(name_text), span: tree.span(name) });
        // What depends on an extra may not be there: it clashes with nothing.
        let installed = if is_conditional { id.as_str() } else { self.place.installed };
        service.of_standard.installed = Some(self.interner.intern(installed));
        service.of_standard.type_checked = self.place.are_modules_listed && !is_conditional;
        self.facts.services.push(service);
    }
}

fn reference(text: &str) -> Option<ObjectReference<'_>> {
    let (object, extras) = match text.split_once('[') {
        Some((object, extras)) => (object, extras.trim().strip_suffix(']')?),
        None => (text, ""),
    };
    let (module, attribute) = match object.split_once(':') {
        Some((module, attribute)) => (module.trim(), Some(attribute.trim())),
        None => (object.trim(), None),
    };
    let is_name = |text: &str| {
        text.split('.').all(|part| {
            let is_start = |letter: char| letter.is_alphabetic() || letter == '_';
            part.starts_with(is_start) && part.chars().all(|letter| is_start(letter) || letter.is_numeric())
        })
    };
    let extras = extras.split(',').map(str::trim).filter(|extra| !extra.is_empty()).collect();
    (is_name(module) && attribute.is_none_or(is_name)).then_some(ObjectReference {
        module,
        attribute,
        extras,
    })
}

/// What the metadata of a distribution say: which others it requires under all circumstances, and its extras.
struct Metadata {
    /// Names of distributions, and where they stand.
    requires: Vec<(String, Span)>,
    /// The extras, normalized.
    pub(crate) extras: Vec<String>,
    /// Where the headers end.
    end: usize,
}

/// Reads the headers of core metadata.
fn metadata(text: &str) -> Metadata {
    let mut read = Metadata { requires: Vec::new(), extras: Vec::new(), end: text.len() };
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let start = at;
        at += line.len();
        // A line of spaces goes on with the header above it: licences and keywords are written so.
        let line = line.strip_suffix('\n').unwrap_or(line);
        let line = line.strip_suffix('\r').unwrap_or(line);
        if line.is_empty() {
            read.end = start;
            break;
        }
        if let Some(required) = line.strip_prefix("Requires-Dist:") {
            // What stands behind a semicolon is a condition.
            let is_conditional = required.contains(';');
            let name = required.trim_start();
            let begin = start + line.len() - name.len();
            let is_part = |letter: char| letter.is_alphanumeric() || matches!(letter, '-' | '_' | '.');
            let length = name.find(|letter| !is_part(letter)).unwrap_or(name.len());
            if !is_conditional && length > 0 {
                read.requires.push((name[..length].to_owned(), Span::new(begin, begin + length)));
            }
        } else if let Some(extra) = line.strip_prefix("Provides-Extra:") {
            read.extras.push(normalized(extra.trim()));
        }
    }
    read
}

/// The facts of the metadata of an installed distribution. A wheel on its own says nothing of what lies beside it.
fn read_metadata(source: &mut Source, distribution: &str, interner: &Interner) -> (Header, Facts) {
    let read = metadata(&source.text);
    // The description behind the headers can be long and is not looked at.
    let headers = source.text[..read.end].to_owned();
    *source = Source::new(std::mem::take(&mut source.path), headers);
    let mut facts = Facts::default();
    let required = read.requires.into_iter().map(|(name, span)| {
        (SourceIndex::default(), Named { name: interner.intern(&normalized(&name)), span })
    });
    facts.uses.extend(required);
    let module = Named { name: interner.intern(&normalized(distribution)), span: Span::at(0) };
    (Header { module: Some(module), ..Header::default() }, facts)
}

/// Whether a list of files is that of a link to sources that lie elsewhere: it lists none of the modules.
fn is_link<'path>(mut paths: impl Iterator<Item = &'path str>) -> bool {
    let is_path_file = |path: &str| Path::new(path).extension().is_some_and(|ending| ending == "pth");
    paths.any(|path| is_path_file(path) || path.contains("__editable__"))
}

/// The modules among the files of a distribution, and the packages around all its files: a folder is a package, with
/// or without code of its own.
fn modules<'path>(paths: impl Iterator<Item = &'path str>, interner: &Interner) -> Facts {
    let mut facts = Facts::default();
    let mut known = foldhash::HashSet::default();
    for path in paths {
        let path = path.trim_start_matches("./");
        let folder = path.rsplit_once('/').and_then(|(folder, _)| dotted(folder));
        for module in module_of(path).into_iter().chain(folder) {
            let mut name = module.as_str();
            while known.insert(name.to_owned()) {
                facts.types.push(interner.intern(name));
                let Some((package, _)) = name.rsplit_once('.') else { break };
                name = package;
            }
        }
    }
    facts
}

/// The module that a file is, if it is one.
fn module_of(path: &str) -> Option<String> {
    let path = unpacked(path);
    let (folder, file) = path.rsplit_once('/').unwrap_or(("", path));
    let (stem, ending) = file.split_once('.')?;
    let is_code = matches!(ending, "py" | "pyc") || ending.ends_with("so") || ending.ends_with("pyd");
    let path = match (folder, stem) {
        _ if !is_code => return None,
        (folder, "__init__") => folder.to_owned(),
        ("", stem) => stem.to_owned(),
        (folder, stem) => format!("{folder}/{stem}"),
    };
    dotted(&path)
}

/// Where a file of a wheel is installed to.
fn unpacked(path: &str) -> &str {
    let parts = path.split_once(".data/purelib/").or_else(|| path.split_once(".data/platlib/"));
    parts.map_or(path, |(_, path)| path)
}

/// The path of a module or package as a name, if it can be one.
fn dotted(path: &str) -> Option<String> {
    let path = unpacked(path);
    let is_name = !path.is_empty() && !path.contains(['-', '.']) && !path.contains("__pycache__");
    is_name.then(|| path.replace('/', "."))
}

/// The paths in a `RECORD`: the first field of each line, which may be quoted.
fn recorded(text: &str) -> impl Iterator<Item = &str> {
    text.lines().map(|line| match line.strip_prefix('"') {
        Some(quoted) => quoted.split('"').next().unwrap_or(quoted),
        None => line.split(',').next().unwrap_or(line),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("velmora/voice.py", Some("velmora.voice"))]
    #[case("velmora/__init__.py", Some("velmora"))]
    #[case("voice.cpython-313-x86_64-linux-gnu.so", Some("voice"))]
    #[case("velmora-1.0.data/purelib/velmora/deep.py", Some("velmora.deep"))]
    #[case("velmora/__pycache__/voice.cpython-313.pyc", None)]
    #[case("../../bin/voice.py", None)]
    #[case("velmora/data.json", None)]
    #[case("velmora-1.0.dist-info/RECORD", None)]
    fn files_are_modules(#[case] path: &str, #[case] expected: Option<&str>) {
        assert_eq!(module_of(path).as_deref(), expected);
    }

    #[rstest]
    #[case("Velmora.Voice__x-y", "velmora-voice-x-y")]
    #[case("voice", "voice")]
    fn names_are_compared_as_the_standard_says(#[case] name: &str, #[case] expected: &str) {
        assert_eq!(normalized(name), expected);
    }

    #[test]
    fn requirements_without_conditions_count() {
        let text = "Name: voice\nRequires-Dist: Velmora.Tones (>=1.0)\nRequires-Dist: cycles; extra == 'x'\n\
                    Requires-Dist: lines[all]>=2\nProvides-Extra: X_y\n\nRequires-Dist: prose\n";
        let read = metadata(text);
        let names: Vec<&str> = read.requires.iter().map(|(name, _)| name.as_str()).collect();
        assert_eq!(names, ["Velmora.Tones", "lines"]);
        assert_eq!(read.extras, ["x-y"]);
        assert_eq!(&text[read.requires[0].1.start as usize..][..13], "Velmora.Tones");
    }

    #[rstest]
    #[case::a_line_of_spaces(
        "Name: voice\nLicense: first line\n        \n        last line\nRequires-Dist: tones\n\nRequires-Dist: prose\n"
    )]
    #[case::a_tab("Name: voice\nLicense: first line\n\t\nRequires-Dist: tones\n\nRequires-Dist: prose\n")]
    #[case::line_ends_of_two(
        "Name: voice\r\nLicense: first\r\n \r\nRequires-Dist: tones\r\n\r\nRequires-Dist: prose\r\n"
    )]
    fn headers_go_on_over_lines_of_spaces_and_end_at_an_empty_one(#[case] text: &str) {
        let read = metadata(text);
        let names: Vec<&str> = read.requires.iter().map(|(name, _)| name.as_str()).collect();
        assert_eq!(names, ["tones"]);
        assert!(!text[..read.end].contains("prose"));
    }

    #[rstest]
    #[case("a.b:c.d [x, y]", Some(("a.b", Some("c.d"), 2)))]
    #[case("a", Some(("a", None, 0)))]
    #[case("a : b", Some(("a", Some("b"), 0)))]
    #[case("a b", None)]
    #[case("a:b()", None)]
    #[case("a:b [x", None)]
    #[case("", None)]
    fn object_references_have_parts(
        #[case] text: &str,
        #[case] expected: Option<(&str, Option<&str>, usize)>,
    ) {
        let parts = reference(text).map(|read| (read.module, read.attribute, read.extras.len()));
        assert_eq!(parts, expected);
    }
}
