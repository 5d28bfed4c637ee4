//! Readers for what code itself registers: calls that hand types to something in many files, and marks that many classes
//! carry. Neither is known by its name: calls count where they stand alone as statements and name types that the code declares,
//! marks where what carries them is built from what carries them.

use super::FamilyDraft;
use super::lines::{Lines, counted, text};
use crate::discover::FoundFile;
use crate::plan::{Claim, Plan};
use crate::types::{self, CodeFile, Language, Methods, Resolver, TypePlace};
use corvant_core::name::Interner;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use regex::Regex;
use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;
use std::sync::LazyLock;

/// Calls of one form, and classes with one mark, for them to mean anything.
const MANY: usize = 5;
/// Types of one form of calls that others are built from, or that are built from others, at least.
const ASKED: usize = 2;
/// Files in which they are at least.
const FILES: usize = 2;
/// Most bytes of a file.
const LARGEST: u64 = 2 << 20;

/// A file of code, with its text.
struct Code {
    file: CodeFile,
    content: String,
}

/// One form of a call: what it is called on, what it is called, and what it is handed.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
struct Form {
    receiver: String,
    method: String,
    /// Whether types stand between angle brackets.
    is_generic: bool,
    handed: Vec<Handed>,
}

#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
enum Handed {
    Text,
    Type,
}

/// What was seen of a form.
#[derive(Default)]
struct Calls {
    count: usize,
    /// How many stand alone as statements: what looks something up stands in an expression.
    alone: usize,
    /// How many name types that the code declares.
    declared: usize,
    /// Of those with two types in how many the second is one of the first, and the other way round.
    second_is_first: usize,
    first_is_second: usize,
    files: BTreeSet<usize>,
    /// The last parts of the names of all types that are handed over.
    types: BTreeSet<String>,
}

/// Drafts readers for the code of a folder, by language.
pub(super) fn families(found: &[FoundFile], plan: &Plan) -> Vec<FamilyDraft> {
    let by_language = read(found, plan);
    by_language.into_iter().filter_map(|(word, code)| of_language(word, &code)).collect()
}

fn read(found: &[FoundFile], plan: &Plan) -> BTreeMap<&'static str, Vec<Code>> {
    let mut paths: Vec<(String, PathBuf, Language)> = Vec::new();
    for file in found {
        let is_read = matches!(plan.claim(&file.relative), Some(Claim::Custom(_)));
        let language =
            Language::of_ending(&file.relative).filter(|language| *language != Language::ClassFile);
        if let Some(language) = language.filter(|_| !is_read) {
            paths.push((file.relative.clone(), file.path.clone(), language));
        }
    }
    let read = |(relative, path, language): (String, PathBuf, Language)| {
        let content = String::from_utf8(crate::files::read(&path, LARGEST).ok()?).ok()?;
        let interner = Interner::default();
        let file =
            types::read(&relative, content.clone().into_bytes(), (language, Methods::Whole), None, &interner)
                .file;
        Some(Code { file, content })
    };
    let all: Vec<Code> = paths.into_par_iter().filter_map(read).collect();
    let mut by_language: BTreeMap<&'static str, Vec<Code>> = BTreeMap::new();
    for code in all {
        let word = Language::WRITTEN.iter().find(|(_, language)| *language == code.file.language);
        by_language.entry(word.map_or("", |(word, _)| word)).or_default().push(code);
    }
    by_language
}

fn of_language(word: &'static str, code: &[Code]) -> Option<FamilyDraft> {
    let resolver = Resolver::new(code.iter().map(|code| &code.file));
    let (marks, beside) = marks(code, &resolver);
    let calls = calls(code);
    if marks.is_empty() && calls.is_empty() {
        return None;
    }
    let endings: BTreeSet<&str> =
        code.iter().filter_map(|code| Some(code.file.path.rsplit_once('.')?.1)).collect();
    let globs: Vec<String> = endings.iter().map(|ending| format!("**/*.{ending}")).collect();
    let files = globs.iter().map(|glob| text(glob)).collect::<Vec<_>>().join(", ");
    let (module, evidence) = module(code);
    let mut lines = Lines::default();
    lines.told("[[types]]", &format!("{} that declare types", counted(code.len(), "file")));
    lines.plain(&format!("files = [{files}]"));
    if module.contains("path") {
        lines.plain(&format!("module = {module}"));
    }
    lines.head("reader");
    lines.plain(&format!("name = {}", text(&format!("{word}-code"))));
    lines.plain(&format!("files = [{files}]"));
    lines.plain(&format!("syntax = \"code\"\nlanguage = {}", text(word)));
    lines.told(&format!("module = {module}"), &evidence);
    lines.plain("may-be-empty = true");
    let mut services = 0;
    for (mark, found) in &marks {
        lines.head("reader.take");
        lines.told(
            "what = \"service\"",
            &format!("{} of {} parameters are of what carries it", found.linked, found.parameters),
        );
        lines.plain("each = \"$.types[?@.kind == 'class']\"");
        lines.told(
            &format!("marked = {}", text(mark)),
            &format!("{} classes in {}", found.carriers.len(), counted(found.files(), "file")),
        );
        lines.plain("id = \"$.name\"\ntype = \"$.name\"\noffers = \"super-types\"\nwire = \"constructor\"");
        services += found.carriers.len();
    }
    for mark in beside {
        lines.plain("");
        lines.unsure(&format!("marked = {}", text(&mark)), "on the same classes as one above");
    }
    for (form, found) in &calls {
        take(&mut lines, form, found, code[0].file.language);
        services += found.count;
    }
    Some(FamilyDraft {
        name: format!("{word}-code"),
        glob: globs.join(", "),
        syntax: "code",
        files: code.len(),
        items: vec![("service", services)],
        known: calls
            .iter()
            .fold((0, 0), |(known, all), (_, found)| (known + found.declared, all + found.count)),
        unsure: lines.unsure,
        text: lines.text,
    })
}

/// The part of the path that tells modules apart: the first folder below what all files share.
fn module(code: &[Code]) -> (String, String) {
    let folders = |path: &str| path.split('/').map(str::to_owned).collect::<Vec<String>>();
    let mut common = code.first().map(|code| folders(&code.file.path)).unwrap_or_default();
    common.pop();
    for code in code {
        let shared =
            common.iter().zip(folders(&code.file.path)).take_while(|(one, other)| *one == other).count();
        common.truncate(shared);
    }
    let inside = code.iter().filter(|code| code.file.path.matches('/').count() > common.len()).count();
    if inside * 10 < code.len() * 8 {
        let name = common.last().cloned().unwrap_or_else(|| "code".to_owned());
        return (format!("{{ constant = {} }}", text(&name)), "the files lie in one folder".to_owned());
    }
    let before: String = common.iter().map(|part| format!("{}/", regex::escape(part))).collect();
    let expression = format!("^{before}(?<module>[^/]+)/");
    (
        format!("{{ path = {} }}", text(&expression)),
        format!("{inside} of {} files lie in such a folder", code.len()),
    )
}

/// What was seen of a mark.
#[derive(Default)]
struct Marked {
    /// The classes that carry it: file and number.
    carriers: BTreeSet<(usize, usize)>,
    /// Parameters of their constructors, and how many of those are of what carries the mark.
    parameters: usize,
    linked: usize,
}

impl Marked {
    fn files(&self) -> usize {
        self.carriers.iter().map(|(file, _)| file).collect::<BTreeSet<_>>().len()
    }
}

/// Marks on many classes that are built from one another; and of those the ones on the same classes as another.
fn marks(code: &[Code], resolver: &Resolver<'_>) -> (Vec<(String, Marked)>, Vec<String>) {
    let mut carriers: BTreeMap<String, Vec<(usize, usize)>> = BTreeMap::new();
    for (file, code) in code.iter().enumerate() {
        for (number, inside) in code.file.outline.types.iter().enumerate() {
            let place = TypePlace { file: &code.file, inside };
            for mark in &inside.marks {
                carriers.entry(resolver.full(&mark.name, place)).or_default().push((file, number));
            }
        }
    }
    let of = |(file, number): (usize, usize)| {
        let inside = &code[file].file.outline.types[number];
        (inside, TypePlace { file: &code[file].file, inside })
    };
    let measured = carriers.into_iter().map(|(mark, all)| {
        let mut names: HashSet<String> = HashSet::default();
        for &carrier in &all {
            let (inside, place) = of(carrier);
            names.insert(resolver.full(&inside.name, place));
            names.extend(inside.supers.iter().map(|above| resolver.full(&above.name, place)));
        }
        let mut found = Marked { carriers: all.iter().copied().collect(), ..Marked::default() };
        for &carrier in &all {
            let (inside, place) = of(carrier);
            let parameters = inside.constructors.iter().flat_map(|constructor| &constructor.parameters);
            for type_use in parameters.filter_map(|parameter| parameter.type_use.as_ref()) {
                found.parameters += 1;
                found.linked += usize::from(names.contains(&resolver.full(&type_use.name, place)));
            }
        }
        (mark, found)
    });
    let is_told = |(_, found): &(String, Marked)| {
        let is_linked = found.linked >= 3 && found.linked * 3 >= found.parameters;
        found.carriers.len() >= MANY && found.files() >= FILES && is_linked
    };
    let mut told: Vec<(String, Marked)> = measured.filter(is_told).collect();
    // Of marks on the same classes the one that is imported from somewhere says more than one of the language.
    told.sort_by_key(|(mark, found)| (std::cmp::Reverse(found.carriers.len()), !mark.contains(['.', '\\'])));
    let (mut kept, mut beside): (Vec<(String, Marked)>, Vec<String>) = Default::default();
    for (mark, found) in told {
        let is_beside = |known: &(String, Marked)| {
            known.1.carriers.intersection(&found.carriers).count() * 2 > found.carriers.len()
        };
        if kept.iter().any(is_beside) {
            beside.push(mark);
        } else {
            kept.push((mark, found));
        }
    }
    (kept, beside)
}

static CALL: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(\$?[A-Za-z_]\w*)(?:\.|->)([A-Za-z_]\w*)\s*(?:<([^<>()]*)>)?\(((?:[^()]|\([^()]*\))*)\)")
        .ok()
});

/// Forms of calls that hand types over, in many places.
fn calls(code: &[Code]) -> Vec<(Form, Calls)> {
    let mut declared: HashMap<&str, HashSet<&str>> = HashMap::default();
    for inside in code.iter().flat_map(|code| &code.file.outline.types) {
        let supers = inside.supers.iter().map(|above| short(&above.name));
        declared.entry(short(&inside.name)).or_default().extend(supers);
    }
    let Some(call) = CALL.as_ref() else { return Vec::new() };
    let of_file = |(file, code): (usize, &Code)| {
        let mut found: BTreeMap<Form, Calls> = BTreeMap::new();
        for captures in call.captures_iter(&code.content) {
            let part = |number: usize| captures.get(number).map_or("", |part| part.as_str());
            let at = captures.get(0).map_or(0, |all| all.start());
            let before = code.content[..at].rsplit('\n').next().unwrap_or_default();
            if before.trim_start().starts_with(['/', '*', '#']) {
                continue;
            }
            let Some((handed, types)) = handed(part(3), part(4), code.file.language) else { continue };
            let form = Form {
                receiver: part(1).to_owned(),
                method: part(2).to_owned(),
                is_generic: !part(3).is_empty(),
                handed,
            };
            let calls = found.entry(form).or_default();
            calls.count += 1;
            calls.alone += usize::from(before.trim().is_empty());
            calls.declared += usize::from(types.iter().all(|name| declared.contains_key(short(name))));
            calls.types.extend(types.iter().map(|name| short(name).to_owned()));
            if let [first, second] = types.as_slice() {
                let is_one_of = |one: &str, other: &str| {
                    declared.get(short(one)).is_some_and(|supers| supers.contains(short(other)))
                };
                calls.second_is_first += usize::from(is_one_of(second, first));
                calls.first_is_second += usize::from(is_one_of(first, second));
            }
            calls.files.insert(file);
        }
        found
    };
    let mut all: BTreeMap<Form, Calls> = BTreeMap::new();
    for (form, calls) in code.par_iter().enumerate().map(of_file).collect::<Vec<_>>().into_iter().flatten() {
        let known = all.entry(form).or_default();
        known.count += calls.count;
        known.alone += calls.alone;
        known.declared += calls.declared;
        known.second_is_first += calls.second_is_first;
        known.first_is_second += calls.first_is_second;
        known.files.extend(calls.files);
        known.types.extend(calls.types);
    }
    let is_told = |(_, calls): &(Form, Calls)| {
        let is_many = calls.count >= MANY && calls.files.len() >= FILES;
        // What is registered is so once, mostly.
        let are_own = calls.types.len() * 2 >= calls.count;
        is_many && are_own && calls.alone * 10 >= calls.count * 8 && calls.declared * 10 >= calls.count * 6
    };
    let told: Vec<(Form, Calls)> = all.into_iter().filter(is_told).collect();
    let asked = asked(code, &told);
    // What is registered is built from one another, or is one of what it is offered as.
    let is_asked = |(_, calls): &(Form, Calls)| {
        let known = calls.types.intersection(&asked).count();
        let offered = calls.second_is_first.max(calls.first_is_second);
        known >= ASKED && known * 5 >= calls.types.len() || offered * 10 >= calls.count * 6
    };
    told.into_iter().filter(is_asked).collect()
}

/// Of the types that calls hand over those that others of them are built from, and those that are built so.
fn asked(code: &[Code], told: &[(Form, Calls)]) -> BTreeSet<String> {
    let handed: HashSet<&str> = told.iter().flat_map(|(_, calls)| &calls.types).map(String::as_str).collect();
    let mut asked = BTreeSet::new();
    for inside in code.iter().flat_map(|code| &code.file.outline.types) {
        if !handed.contains(short(&inside.name)) {
            continue;
        }
        let parameters = inside.constructors.iter().flat_map(|constructor| &constructor.parameters);
        for type_use in parameters.filter_map(|parameter| parameter.type_use.as_ref()) {
            if handed.contains(short(&type_use.name)) {
                asked.extend([&type_use.name, &inside.name].map(|name| short(name).to_owned()));
            }
        }
    }
    asked
}

/// What a call hands over, with the names of the types; `None`: something else than texts and types.
fn handed(generic: &str, arguments: &str, language: Language) -> Option<(Vec<Handed>, Vec<String>)> {
    let (mut handed, mut types) = (Vec::new(), Vec::new());
    for name in generic.split(',').map(str::trim).filter(|name| !name.is_empty()) {
        is_type_name(name).then_some(())?;
        handed.push(Handed::Type);
        types.push(name.to_owned());
    }
    for argument in arguments.split(',').map(str::trim).filter(|argument| !argument.is_empty()) {
        if argument.starts_with(['"', '\'']) && argument.ends_with(['"', '\'']) && argument.len() > 2 {
            handed.push(Handed::Text);
            continue;
        }
        let name = match language {
            Language::Java => argument.strip_suffix(".class")?,
            Language::Kotlin | Language::Php => argument.strip_suffix("::class")?,
            Language::CSharp => argument.strip_prefix("typeof(")?.strip_suffix(')')?,
            Language::TypeScript | Language::Python | Language::ClassFile => argument,
        };
        is_type_name(name).then_some(())?;
        handed.push(Handed::Type);
        types.push(name.to_owned());
    }
    (!types.is_empty() && types.len() <= 2 && handed.len() <= 3).then_some((handed, types))
}

fn is_type_name(name: &str) -> bool {
    let is_of_name = |letter: char| letter.is_alphanumeric() || matches!(letter, '.' | '_' | '\\');
    name.chars().all(is_of_name) && short(name).starts_with(char::is_uppercase)
}

fn short(name: &str) -> &str {
    name.rsplit(|letter: char| !letter.is_alphanumeric() && letter != '_').next().unwrap_or(name)
}

/// The take for a form.
fn take(lines: &mut Lines, form: &Form, calls: &Calls, language: Language) {
    let types = form.handed.iter().filter(|handed| **handed == Handed::Type).count();
    // Of two types the one that the other is one of is what it is offered as.
    let names: &[&str] = match (types, calls.first_is_second > calls.second_is_first) {
        (2, false) => &["CONTRACT", "TYPE"],
        (2, true) => &["TYPE", "CONTRACT"],
        _ => &["TYPE"],
    };
    let mut names = names.iter();
    let mut texts = ["ID", "KEY"].iter();
    let mut holes: Vec<String> = Vec::new();
    for handed in &form.handed {
        let hole = match handed {
            Handed::Text => texts.next().map(|name| format!("${name}")),
            Handed::Type => names.next().map(|name| format!("${name}")),
        };
        let Some(hole) = hole else { return };
        let written = match (handed, language, form.is_generic) {
            (Handed::Text, ..) | (_, _, true) => hole,
            (_, Language::Java, _) => format!("{hole}.class"),
            (_, Language::Kotlin | Language::Php, _) => format!("{hole}::class"),
            (_, Language::CSharp, _) => format!("typeof({hole})"),
            _ => hole,
        };
        holes.push(written);
    }
    let dot = if language == Language::Php { "->" } else { "." };
    let (generic, arguments) = if form.is_generic { holes.split_at(types) } else { holes.split_at(0) };
    let generic = if generic.is_empty() { String::new() } else { format!("<{}>", generic.join(", ")) };
    let pattern = format!("{}{dot}{}{generic}({})", form.receiver, form.method, arguments.join(", "));
    lines.head("reader.take");
    lines.told(
        "what = \"service\"",
        &format!(
            "{} of {} stand alone, and {} name types that are declared",
            calls.alone, calls.count, calls.declared
        ),
    );
    let evidence = format!("{} in {}", counted(calls.count, "call"), counted(calls.files.len(), "file"));
    lines.told(&format!("each = {{ code = {} }}", text(&pattern)), &evidence);
    let has_id = form.handed.contains(&Handed::Text);
    lines.plain(if has_id { "id = \"$.ID\"" } else { "id = { from = \"$.TYPE\", full = true }" });
    lines.plain("type = { from = \"$.TYPE\", full = true }");
    if types == 2 {
        lines.plain("offers = { from = \"$.CONTRACT\", full = true }");
    }
    lines.plain("wire = \"constructor\"");
}
