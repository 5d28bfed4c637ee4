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
    Contract, Facts, Header, Installed, InstalledKind, ListedType, Many, MeantFor, Named, Requirement,
    Service, SourceKind, Trouble, TroubleKind,
};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::Interner;
use corvant_core::source::{Source, SourceIndex, Span};
use corvant_core::wiring::Manifest;
use corvant_core::wording::EditSort;
use foldhash::{HashMap, HashMapExt};
use std::path::Path;

/// Groups of which each name becomes a file in one folder.
const SCRIPTS: [&str; 2] = ["console_scripts", "gui_scripts"];

/// The file that makes a folder a virtual environment (PEP 405).
const ENVIRONMENT: &str = "pyvenv.cfg";

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
        is_installed || is_of_older_kind(path) || file == ENVIRONMENT || has_ending(path, ".whl")
    }

    /// Distributions, what tells of them, and the file that makes a folder an environment (PEP 405).
    fn installs(&self, folder: &str, name: &str) -> bool {
        let is_of_distribution = |name: &str| name.ends_with(".dist-info") || name.ends_with(".egg-info");
        is_of_distribution(name) || is_of_distribution(folder) || name == ENVIRONMENT
    }

    fn words(&self) -> &'static [(EditSort, &'static str)] {
        &[
            (EditSort::Default, "keep the distribution of {} alone"),
            (EditSort::Offer, "install a distribution with an entry point in the group `{}`"),
        ]
    }

    fn read(&self, at: &Reading<'_>, path: &str, bytes: Vec<u8>) -> Vec<One> {
        let source = match at.text(path, bytes) {
            Ok(source) => source,
            Err(unread) => return vec![*unread],
        };
        let manifest = match parts(path).1 {
            _ if is_of_older_kind(path) => of_older_kind(at, path),
            ENVIRONMENT => return vec![environment(&source)],
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

/// Where a distribution lies, by the folder that says so.
struct Location {
    /// The distribution, normalized.
    distribution: String,
    /// The installation, or what is still to be installed.
    place: String,
    /// Whether it is an installation.
    is_installed: bool,
}

impl Location {
    /// That of a folder such as `lib/velmora_voice-1.0.dist-info`.
    fn of_folder(at: &Reading<'_>, folder: &str) -> Self {
        let (above, own) = folder.rsplit_once('/').unwrap_or((".", folder));
        let distribution = normalized(distribution(own));
        // A wheel that was unpacked and not installed still has what goes to other places.
        let data = own.strip_suffix(".dist-info").map(|stem| format!("{above}/{stem}.data"));
        let is_installed = data.is_none_or(|data| at.files.list(&data).is_empty());
        let place = if is_installed { installation(above) } else { format!("{above}/{own}") };
        Self { distribution, place, is_installed }
    }

    /// That of a wheel: beside it are those that are installed with it.
    fn of_wheel(path: &str, folder: &str) -> Self {
        let (above, _) = path.rsplit_once('/').unwrap_or((".", path));
        Self {
            distribution: normalized(distribution(folder)),
            place: format!("{above}/*.whl"),
            is_installed: false,
        }
    }

    fn installed(&self, at: &Reading<'_>) -> Installed {
        Installed {
            source: SourceIndex::default(),
            kind: InstalledKind::Distribution,
            name: at.interner.intern(&self.distribution),
            place: at.interner.intern(&self.place),
        }
    }

    fn requirement(&self, at: &Reading<'_>, name: &str, span: Span) -> Requirement {
        Requirement {
            source: SourceIndex::default(),
            kind: InstalledKind::Distribution,
            name: Named { name: at.interner.intern(&normalized(name)), span },
            place: at.interner.intern(&self.place),
            is_installed: self.is_installed,
        }
    }
}

/// The installation that a folder of distributions is a part of: code for one machine alone lies beside the rest, in a
/// folder of its own; and so does what an administrator adds to what a system of packages installs.
fn installation(folder: &str) -> String {
    let mut parts: Vec<&str> = folder.split('/').collect();
    for at in 0..parts.len() {
        let is_of_language = parts.get(at + 1).is_some_and(|next| next.starts_with("python"));
        if parts[at] == "lib64" && is_of_language {
            parts[at] = "lib";
        }
    }
    if let [before @ .., "lib", version, "dist-packages"] = parts.as_slice()
        && version.starts_with("python")
    {
        let before = before.strip_suffix(&["local"]).unwrap_or(before);
        parts = [before, &["lib", "python3", "dist-packages"]].concat();
    }
    parts.join("/")
}

/// A virtual environment. One that sees the distributions of the system too is no installation of its own.
fn environment(source: &Source) -> One {
    let folder = folder_above(&source.path, 1);
    let is_open = source.text.lines().filter_map(|line| line.split_once('=')).any(|(key, value)| {
        key.trim().eq_ignore_ascii_case("include-system-site-packages")
            && value.trim().eq_ignore_ascii_case("true")
    });
    let header = Header { kind: SourceKind::Container, ..Header::default() };
    let source = Source::new(source.path.clone(), String::new());
    let mut one = One::plain(Manifest { source, header, facts: Facts::default() });
    one.blind_spots.extend(is_open.then(|| BlindSpot {
        kind: BlindSpotKind::OpenEnvironment,
        subject: folder,
        message: "what is installed in it also finds what the system has, which was not read: whether it misses \
                  anything is not checked"
            .to_owned(),
        places: Vec::new(),
    }));
    one
}

/// Whether a folder lies in an environment that sees the distributions of the system too.
fn is_in_open_environment(at: &Reading<'_>, folder: &str) -> bool {
    let above = |path: &str| path.rsplit_once('/').map(|(above, _)| above.len());
    let folders = std::iter::successors(Some(folder), |path| above(path).map(|length| &folder[..length]));
    let mut files = folders.filter_map(|folder| at.files.read(&format!("{folder}/{ENVIRONMENT}"))?.ok());
    let Some(bytes) = files.next() else { return false };
    let source = Source::new(ENVIRONMENT.to_owned(), String::from_utf8_lossy(&bytes).into_owned());
    !environment(&source).blind_spots.is_empty()
}

fn installed(at: &Reading<'_>, source: Source) -> Manifest {
    let (folder, _) = source.path.rsplit_once('/').unwrap_or((".", ""));
    let location = Location::of_folder(at, folder);
    let beside = |file: &str| {
        let bytes = at.files.read(&format!("{folder}/{file}"))?.ok()?;
        String::from_utf8(bytes).ok()
    };
    let record = beside("RECORD");
    let is_listed = record.is_some_and(|record| !is_link(recorded(&record)));
    let extras = beside("METADATA").map(|text| metadata(&text).extras);
    let place = Installation { location: &location, are_modules_listed: is_listed, extras };
    match read(&source, &place, at.interner) {
        Ok((header, mut facts)) => {
            facts.installed.push(location.installed(at));
            at.manifest(source, header, facts, NAME)
        }
        Err(error) => not_well_formed(source, &error, at.interner),
    }
}

fn described(at: &Reading<'_>, mut source: Source) -> Manifest {
    let folder = folder_above(&source.path, 1);
    let location = Location::of_folder(at, &folder);
    let read = metadata(&source.text);
    // The description behind the headers can be long and is not looked at.
    let headers = source.text[..read.end].to_owned();
    source = Source::new(std::mem::take(&mut source.path), headers);
    let mut facts = Facts::default();
    facts.installed.push(location.installed(at));
    // What is not installed says nothing of what lies beside it.
    if location.is_installed && !is_in_open_environment(at, &folder) {
        facts.requirements = read.unconditional(&location, at);
    }
    at.manifest(source, at.header(&location.distribution), facts, NAME)
}

fn recorded_modules(at: &Reading<'_>, source: &Source) -> Manifest {
    let location = Location::of_folder(at, &folder_above(&source.path, 1));
    let mut facts = modules(recorded(&source.text), &location.place, at.interner);
    facts.installed.push(location.installed(at));
    let header = Header { kind: SourceKind::Container, ..Header::default() };
    Manifest { source: Source::new(source.path.clone(), String::new()), header, facts }
}

fn of_older_kind(at: &Reading<'_>, path: &str) -> Manifest {
    let folder = path.strip_suffix("/PKG-INFO").unwrap_or(path);
    let location = Location::of_folder(at, folder);
    let mut facts = Facts::default();
    facts.installed.push(location.installed(at));
    let source = Source::new(path.to_owned(), String::new());
    at.manifest(source, at.header(&location.distribution), facts, NAME)
}

/// A built distribution that is not installed.
fn wheel(at: &Reading<'_>, archive: &mut Archive<'_>) {
    let paths = archive.paths();
    let names = || paths.iter().map(String::as_str);
    let find = |file: &str| {
        paths.iter().position(|path| {
            path.strip_suffix(file)
                .is_some_and(|folder| folder.ends_with(".dist-info/") && folder.matches('/').count() == 1)
        })
    };
    let own = |number: usize| paths[number].split('/').next().unwrap_or_default();
    let folder = find("METADATA").or_else(|| find("entry_points.txt")).map_or(archive.path, own);
    let location = Location::of_wheel(archive.path, folder);
    let bytes = find("METADATA").and_then(|number| archive.bytes(number, &paths[number]));
    let described = bytes.map(|bytes| metadata(&String::from_utf8_lossy(&bytes)));
    if let Some(number) = find("entry_points.txt")
        && let Some(source) = archive.text(number, &paths[number], at)
    {
        let are_modules_listed = !is_link(names());
        let extras = described.as_ref().map(|described| described.extras.clone());
        let manifest = match read(
            &source,
            &Installation { location: &location, are_modules_listed, extras },
            at.interner,
        ) {
            Ok((header, mut facts)) => {
                let requires = described.iter().flat_map(|described| &described.requires);
                // They stand in another file of the wheel.
                let requires = requires.map(|required| location.requirement(at, &required.name, Span::at(0)));
                facts.requirements.extend(requires);
                at.manifest(source, header, facts, NAME)
            }
            Err(error) => not_well_formed(source, &error, at.interner),
        };
        archive.ones.push(One::plain(manifest));
    }
    let mut facts = modules(names(), &location.place, at.interner);
    facts.installed.push(location.installed(at));
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
    location: &'a Location,
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
    let module = Named { name: interner.intern(&place.location.distribution), span: Span::at(0) };
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
                let distribution = &self.place.location.distribution;
                let message =
                    format!("{name_text} depends on the extra {extra}, which {distribution} does not have");
                self.wrong(subject(), message, tree.span(value));
            }
        }
        let is_conditional = !reference.extras.is_empty();
        let id = format!("{}:{group_text}/{name_text}", self.place.location.distribution);
        let mut service = Service::new(Named { name: self.interner.intern(&id), span: tree.span(name) });
        let module = self.interner.intern(reference.module);
        service.type_name = Some(Named { name: module, span: tree.part(value, 0..reference.module.len()) });
        let start = self.facts.parts.named.len();
        self.facts.parts.named.push(group);
        service.offers = Many::since(start, &self.facts.parts);
        service.key = Some(Named { name: self.interner.intern(name_text), span: tree.span(name) });
        // What depends on an extra may not be there: it clashes with nothing.
        let Location { distribution, place, is_installed } = self.place.location;
        let installed = match is_installed {
            _ if is_conditional => format!("{place} {id}"),
            true => place.clone(),
            // Wheels that lie side by side write no scripts.
            false => format!("{place} {distribution}"),
        };
        service.of_standard.installed = Some(self.interner.intern(&installed));
        let is_checked = self.place.are_modules_listed && !is_conditional;
        service.of_standard.type_place = is_checked.then(|| self.interner.intern(place));
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

/// What the metadata of a distribution say: which others it requires, and its extras.
struct Metadata {
    requires: Vec<Required>,
    /// The extras, normalized.
    extras: Vec<String>,
    /// Where the headers end.
    end: usize,
}

/// A distribution that another requires.
struct Required {
    name: String,
    span: Span,
    /// Whether it is required under some circumstances alone.
    is_conditional: bool,
}

impl Metadata {
    /// What is required under all circumstances.
    fn unconditional(&self, location: &Location, at: &Reading<'_>) -> Vec<Requirement> {
        let always = self.requires.iter().filter(|required| !required.is_conditional);
        always.map(|required| location.requirement(at, &required.name, required.span)).collect()
    }
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
            if length > 0 {
                let (name, span) = (name[..length].to_owned(), Span::new(begin, begin + length));
                read.requires.push(Required { name, span, is_conditional });
            }
        } else if let Some(extra) = line.strip_prefix("Provides-Extra:") {
            read.extras.push(normalized(extra.trim()));
        }
    }
    read
}

/// Whether a list of files is that of a link to sources that lie elsewhere: it lists none of the modules.
fn is_link<'path>(mut paths: impl Iterator<Item = &'path str>) -> bool {
    let is_path_file = |path: &str| Path::new(path).extension().is_some_and(|ending| ending == "pth");
    paths.any(|path| is_path_file(path) || path.contains("__editable__"))
}

/// The modules among the files of a distribution, and the packages around all its files: a folder is a package, with
/// or without code of its own.
fn modules<'path>(paths: impl Iterator<Item = &'path str>, place: &str, interner: &Interner) -> Facts {
    let mut facts = Facts::default();
    let (source, place) = (SourceIndex::default(), interner.intern(place));
    let mut known = foldhash::HashSet::default();
    for path in paths {
        let path = path.trim_start_matches("./");
        let folder = path.rsplit_once('/').and_then(|(folder, _)| dotted(folder));
        for module in module_of(path).into_iter().chain(folder) {
            let mut name = module.as_str();
            while known.insert(name.to_owned()) {
                facts.types.push(ListedType { source, name: interner.intern(name), place });
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
    #[case("env/lib64/python3.11/site-packages", "env/lib/python3.11/site-packages")]
    #[case("env/lib64/tools/site-packages", "env/lib64/tools/site-packages")]
    #[case("usr/local/lib/python3.11/dist-packages", "usr/lib/python3/dist-packages")]
    #[case("lib/python3.11/dist-packages", "lib/python3/dist-packages")]
    #[case(".", ".")]
    fn folders_are_parts_of_installations(#[case] folder: &str, #[case] expected: &str) {
        assert_eq!(installation(folder), expected);
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
        let always = read.requires.iter().filter(|required| !required.is_conditional);
        let names: Vec<&str> = always.map(|required| required.name.as_str()).collect();
        assert_eq!(names, ["Velmora.Tones", "lines"]);
        assert_eq!(read.extras, ["x-y"]);
        assert_eq!(&text[read.requires[0].span.start as usize..][..13], "Velmora.Tones");
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
        let names: Vec<&str> = read.requires.iter().map(|required| required.name.as_str()).collect();
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
