//! What the standards of the Java platform share: names of types, manifests of jars, module descriptors.

use cafebabe::attributes::ModuleRequiresFlags;
use corvant_core::facts::{
    Facts, Header, Installed, InstalledKind, Many, Named, Need, Requirement, Service, Target, TypeReach, Via,
};
use corvant_core::name::{Interner, Name};
use corvant_core::source::{Source, SourceIndex, Span};
use std::fmt::Write;

/// Where modules are looked for: among all jars that are read.
pub(crate) const MODULES: &str = ".";

/// Whether a text can be the full name of a type (JLS 3.8 and 13.1): identifiers with dots between.
pub(crate) fn is_type_name(text: &str) -> bool {
    let is_identifier = |part: &str| {
        let mut letters = part.chars();
        let is_start = |letter: char| letter.is_alphabetic() || letter == '_' || letter == '$';
        letters.next().is_some_and(is_start) && letters.all(|letter| is_start(letter) || letter.is_numeric())
    };
    text.split('.').all(is_identifier)
}

/// Where a type that a jar names may be beside that jar: the classes of the platform itself are in none.
pub(crate) fn type_reach(text: &str) -> TypeReach {
    let of_the_platform = ["java.", "javax.", "jdk.", "sun.", "com.sun."];
    let may_be = of_the_platform.iter().any(|package| text.starts_with(package));
    if may_be { TypeReach::PlatformToo } else { TypeReach::AnyPlace }
}

/// Whether a module is one of the platform itself, which is in no jar.
fn is_module_of_the_platform(name: &str) -> bool {
    name.starts_with("java.") || name.starts_with("jdk.")
}

/// The name of a jar as a module that does not say its name (Java SE, `ModuleFinder.of`): that of the file, up to its
/// version, with dots for all that is no letter or digit.
pub(crate) fn automatic_module(path: &str) -> String {
    let file = path.rsplit('/').next().unwrap_or(path);
    let stem = file.strip_suffix(".jar").unwrap_or(file);
    let version = stem.match_indices('-').find(|(at, _)| {
        let rest = stem[at + 1..].trim_start_matches(|letter: char| letter.is_ascii_digit());
        rest.len() < stem.len() - at - 1 && (rest.is_empty() || rest.starts_with('.'))
    });
    let name = version.map_or(stem, |(at, _)| &stem[..at]);
    let parts = name.split(|letter: char| !letter.is_ascii_alphanumeric()).filter(|part| !part.is_empty());
    parts.collect::<Vec<_>>().join(".")
}

/// The type that a class file in a jar is for; `None`: the file is no class file, or its class has no name.
pub(crate) fn type_of_class_file(path: &str) -> Option<String> {
    let path = path.strip_suffix(".class")?;
    let path = match path.strip_prefix("META-INF/versions/") {
        Some(rest) => rest.split_once('/')?.1,
        None => path,
    };
    // A part that begins with a digit is a class without a name of its own.
    let is_named =
        path.split('$').skip(1).all(|part| !part.starts_with(|letter: char| letter.is_ascii_digit()));
    let last = path.rsplit('/').next().unwrap_or(path);
    (is_named && !last.contains('-')).then(|| path.replace('/', "."))
}

/// A header of a jar's manifest.
pub(crate) struct ManifestHeader {
    pub(crate) name: String,
    pub(crate) value: String,
    /// Where the value stands; longer values go on on further lines.
    pub(crate) span: Span,
}

/// The main section of a jar's manifest (JAR File Specification): lines of 72 bytes, longer ones continued.
pub(crate) fn manifest_headers(text: &str) -> Vec<ManifestHeader> {
    let mut headers: Vec<ManifestHeader> = Vec::new();
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let start = at;
        at += line.len();
        let line = line.trim_end_matches(['\n', '\r']);
        if line.is_empty() && !headers.is_empty() {
            break;
        }
        if let Some(rest) = line.strip_prefix(' ') {
            if let Some(last) = headers.last_mut() {
                last.value.push_str(rest);
                last.span.end = (start + line.len()) as u32;
            }
        } else if let Some((name, value)) = line.split_once(':') {
            let value = value.strip_prefix(' ').unwrap_or(value);
            let end = start + line.len();
            let span = Span::new(end - value.len(), end);
            headers.push(ManifestHeader { name: name.to_owned(), value: value.trim_end().to_owned(), span });
        }
    }
    headers
}

/// One clause of a header: paths, then attributes and directives.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Clause {
    pub(crate) paths: Vec<String>,
    pub(crate) parameters: Vec<(String, String)>,
}

impl Clause {
    /// The value of an attribute (`name`) or directive (`name:`), whatever type it says it has.
    pub(crate) fn parameter(&self, name: &str) -> Option<&str> {
        self.parameters.iter().find(|(known, _)| without_type(known) == name).map(|(_, value)| value.as_str())
    }
}

/// The name of an attribute without its type: `version` of `version:Version`. That of a directive ends in `:`.
fn without_type(name: &str) -> &str {
    name.split_once(':').filter(|(_, kind)| !kind.is_empty()).map_or(name, |(plain, _)| plain)
}

/// The clauses of a header (OSGi Core, "Common Header Syntax"): commas between, parameters behind semicolons.
pub(crate) fn clauses(value: &str) -> Vec<Clause> {
    split(value, ',')
        .map(|clause| {
            let mut read = Clause { paths: Vec::new(), parameters: Vec::new() };
            for part in split(clause, ';').map(str::trim).filter(|part| !part.is_empty()) {
                match outside_quotes(part).find(|&(_, letter)| letter == '=') {
                    // `:=` makes a directive; the colon stays with the name.
                    Some((at, _)) => {
                        let name = part[..at].trim().to_owned();
                        let value = part[at + 1..].trim().trim_matches('"').to_owned();
                        read.parameters.push((name, value));
                    }
                    None => read.paths.push(part.to_owned()),
                }
            }
            read
        })
        .filter(|clause| !clause.paths.is_empty())
        .collect()
}

fn outside_quotes(text: &str) -> impl Iterator<Item = (usize, char)> {
    let mut quoted = false;
    let mut escaped = false;
    text.char_indices().filter(move |&(_, letter)| {
        if letter == '"' && !escaped {
            quoted = !quoted;
        }
        escaped = letter == '\\' && !escaped;
        !quoted
    })
}

fn split(text: &str, at: char) -> impl Iterator<Item = &str> {
    let mut cuts: Vec<usize> =
        outside_quotes(text).filter(|&(_, letter)| letter == at).map(|(at, _)| at).collect();
    cuts.push(text.len());
    let mut from = 0;
    cuts.into_iter().map(move |cut| {
        let part = &text[from.min(cut)..cut];
        from = cut + 1;
        part
    })
}

/// What a module descriptor says, as a text that can be read, and the facts in it.
///
/// `uses` is a need of all providers; that there are none is no fault.
pub(crate) fn module_descriptor(
    path: &str,
    bytes: &[u8],
    interner: &Interner,
) -> Result<(Source, Header, Facts), String> {
    use cafebabe::attributes::AttributeData;
    let mut options = cafebabe::ParseOptions::default();
    options.parse_bytecode(false);
    let class = cafebabe::parse_class_with_options(bytes, &options).map_err(|error| error.to_string())?;
    let module = class.attributes.iter().find_map(|attribute| match &attribute.data {
        AttributeData::Module(module) => Some(module),
        _ => None,
    });
    let Some(module) = module else { return Err("the class file describes no module".to_owned()) };
    let mut text = format!("module {} {{\n", module.name);
    let mut facts = Facts::default();
    let place = interner.intern(path);
    let modules = interner.intern(MODULES);
    let named = |text: &mut String, name: &str| {
        let name = name.replace('/', ".");
        let span = Span::new(text.len(), text.len() + name.len());
        text.push_str(&name);
        Named { name: interner.intern(&name), span }
    };
    for required in &module.requires {
        let is_optional = required.flags.contains(ModuleRequiresFlags::STATIC_PHASE);
        text.push_str(if is_optional { "    requires static " } else { "    requires " });
        let name = named(&mut text, &required.name);
        text.push_str(";\n");
        if !is_optional && !is_module_of_the_platform(&required.name) {
            facts.requirements.push(Requirement {
                source: SourceIndex::default(),
                kind: InstalledKind::Module,
                name,
                place: modules,
                is_installed: true,
            });
        }
    }
    for provides in &module.provides {
        text.push_str("    provides ");
        let contract = named(&mut text, &provides.service_interface_name);
        text.push_str(" with ");
        for (number, provider) in provides.provides_with.iter().enumerate() {
            text.push_str(if number > 0 { ", " } else { "" });
            let id = named(&mut text, provider);
            let mut service = Service::new(id);
            service.type_name = Some(id);
            let start = facts.parts.named.len();
            facts.parts.named.push(contract);
            service.offers = Many::since(start, &facts.parts);
            // One class may stand in several lines: each is a place of its own.
            service.of_standard.installed =
                Some(interner.intern(&format!("{path} {}", provides.service_interface_name)));
            service.of_standard.type_reach = type_reach(&provider.replace('/', "."));
            facts.services.push(service);
        }
        text.push_str(";\n");
    }
    let mut needs = Vec::new();
    for used in &module.uses {
        text.push_str("    uses ");
        let contract = named(&mut text, used);
        needs.push(need_of_all(contract));
        text.push_str(";\n");
    }
    let _ = writeln!(text, "}}");
    let name = Named { name: interner.intern(&module.name), span: Span::new(7, 7 + module.name.len()) };
    if !needs.is_empty() {
        let mut service = Service::new(name);
        service.needs_given = true;
        let start = facts.parts.needs.len();
        facts.parts.needs.extend(needs);
        service.needs = Many::since(start, &facts.parts);
        service.of_standard.installed = Some(place);
        facts.services.push(service);
    }
    facts.installed.push(installed_module(name.name, modules));
    let header = Header { module: Some(name), ..Header::default() };
    Ok((Source::new(path.to_owned(), text), header, facts))
}

/// A module that is there.
pub(crate) fn installed_module(name: Name, place: Name) -> Installed {
    Installed { source: SourceIndex::default(), kind: InstalledKind::Module, name, place }
}

/// A need of all that offer a contract, of which there may be none.
fn need_of_all(contract: Named) -> Need {
    Need {
        source: SourceIndex::default(),
        slot: contract,
        target: Target::All(contract.name),
        span: contract.span,
        key: None,
        via: Via::Constructor,
        method: None,
        optional: true,
        lazy: true,
        by_type: false,
        is_repeated: false,
        registered_before: Need::UNORDERED,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("velmora.voice.Cabin", true)]
    #[case("velmora.Voice$Cabin", true)]
    #[case("Cabin", true)]
    #[case("velmora.žluť.Ž1", true)]
    #[case("velmora..Cabin", false)]
    #[case("velmora.1", false)]
    #[case("velmora.cabin-voice", false)]
    #[case("class=velmora.Cabin", false)]
    #[case("velmora.Cabin velmora.Street", false)]
    #[case("", false)]
    fn names_of_types_are_known(#[case] text: &str, #[case] expected: bool) {
        assert_eq!(is_type_name(text), expected);
    }

    #[rstest]
    #[case("velmora/voice/Cabin.class", Some("velmora.voice.Cabin"))]
    #[case("velmora/Voice$Cabin.class", Some("velmora.Voice$Cabin"))]
    #[case("velmora/Voice$1.class", None)]
    #[case("velmora/Voice$1Local.class", None)]
    #[case("META-INF/versions/21/velmora/New.class", Some("velmora.New"))]
    #[case("velmora/package-info.class", None)]
    #[case("velmora/Voice.java", None)]
    fn class_files_are_types(#[case] path: &str, #[case] expected: Option<&str>) {
        assert_eq!(type_of_class_file(path).as_deref(), expected);
    }

    #[rstest]
    #[case("lib/velmora-voice-1.2.jar", "velmora.voice")]
    #[case("velmora_voice.jar", "velmora.voice")]
    #[case("velmora-2go-1.jar", "velmora.2go")]
    #[case("velmora--voice-.jar", "velmora.voice")]
    #[case("velmora-voice-1-beta.jar", "velmora.voice.1.beta")]
    fn jars_without_a_name_are_called_after_their_files(#[case] path: &str, #[case] expected: &str) {
        assert_eq!(automatic_module(path), expected);
    }

    #[test]
    fn headers_go_on_over_lines_and_end_with_the_section() {
        let text = "Manifest-Version: 1.0\r\nService-Component: OSGI-INF/a.xml, OSG\r\n I-INF/b.xml\r\n\r\nName: x\r\n";
        let headers = manifest_headers(text);
        assert_eq!(headers.len(), 2);
        assert_eq!(headers[1].value, "OSGI-INF/a.xml, OSGI-INF/b.xml");
        assert_eq!(&text[headers[1].span.start as usize..][..8], "OSGI-INF");
    }

    #[test]
    fn clauses_keep_what_is_quoted_together() {
        let read = clauses(
            r#"osgi.service;objectClass:List<String>="velmora.A,velmora.B";effective:=active, a;b;x=1,"#,
        );
        assert_eq!(read.len(), 2);
        assert_eq!(read[0].paths, ["osgi.service"]);
        assert_eq!(read[0].parameter("objectClass"), Some("velmora.A,velmora.B"));
        assert_eq!(read[1].paths, ["a", "b"]);
        assert_eq!(read[1].parameter("x"), Some("1"));
    }
}
