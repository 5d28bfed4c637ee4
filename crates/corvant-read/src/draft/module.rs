//! Which module a file belongs to: what most of its ids begin with, if its path or a field of it says so.

use super::families::Family;
use super::lines::text;
use super::shape::Shape;
use super::study::{At, Field, Study, Value};
use foldhash::HashSet;
use std::collections::BTreeMap;

/// How the files of a family say it.
#[derive(Debug, Default)]
pub(super) struct ModuleFrom {
    /// What stands behind `module =`.
    pub(super) line: String,
    pub(super) evidence: String,
    /// By file.
    names: Vec<String>,
}

/// Of all families.
#[derive(Debug, Default)]
pub(super) struct Modules {
    pub(super) of_family: Vec<ModuleFrom>,
    pub(super) names: HashSet<String>,
}

impl Modules {
    /// The module of a file of a family.
    pub(super) fn of_file(&self, family: usize, file: usize) -> &str {
        &self.of_family[family].names[file]
    }
}

pub(super) fn modules(study: &Study<'_, '_>) -> Modules {
    let of_family: Vec<ModuleFrom> =
        (0..study.families.len()).map(|family| of_family(study, family)).collect();
    let names = of_family.iter().flat_map(|module| module.names.iter().cloned()).collect();
    Modules { of_family, names }
}

/// What may stand between a module and a name; the longer of two that begin alike comes first.
pub(super) const BETWEEN: [&str; 5] = ["::", ".", "/", ":", "-"];

/// Names of items that leave their module out: they mean those of their own.
pub(super) struct Own<'o, 's, 't> {
    pub(super) study: &'o Study<'s, 't>,
    modules: &'o Modules,
    /// What may stand between the two.
    between: Vec<&'static str>,
}

impl<'o, 's, 't> Own<'o, 's, 't> {
    pub(super) fn new(study: &'o Study<'s, 't>, modules: &'o Modules) -> Self {
        let used: HashSet<&str> = study.all().filter_map(|at| study.made[at.0][at.1].between()).collect();
        Self {
            study,
            modules,
            between: BETWEEN.into_iter().filter(|between| used.contains(between)).collect(),
        }
    }

    /// The module of a value: what its group is called, or the module of its file.
    fn of(&self, field: &Field<'_>, value: &Value<'_>) -> &'o str {
        let group = field.of.and_then(|of| self.study.group((field.family, of), value.item));
        group.unwrap_or_else(|| self.modules.of_file(field.family, value.spot.file))
    }

    /// The id that a name in a value means, with what stands between it and its module.
    pub(super) fn find(
        &self,
        (field, value): (&Field<'_>, &Value<'_>),
        name: &str,
    ) -> Option<(&'s str, At, &'static str)> {
        // What is one letter or a number is an id nowhere.
        let may_be = name.len() > 1 && name.starts_with(char::is_alphabetic) && !self.between.is_empty();
        let module = may_be.then(|| self.of(field, value))?;
        self.between.iter().find_map(|between| {
            let (id, &at) = self.study.ids.get_key_value(format!("{module}{between}{name}").as_str())?;
            let is_short = self.study.made[at.0][at.1].between() == Some(between);
            is_short.then_some((*id, at, *between))
        })
    }
}

/// What finds the name of a file, without its endings, in its path.
pub(super) const STEM: &str = r"([^/.]+)[^/]*$";

/// The same.
pub(super) fn stem(path: &str) -> String {
    path.rsplit('/').next().and_then(|name| name.split('.').next()).unwrap_or_default().to_owned()
}

/// One way to say it, in the order in which they are preferred.
struct Way {
    line: String,
    names: Vec<String>,
    is_written: bool,
}

fn of_family(study: &Study<'_, '_>, family: usize) -> ModuleFrom {
    let ids = ids_by_file(study, family);
    let ways = ways(&study.families[family], &study.shapes[family]);
    // Names of ids begin with their module in most houses.
    let agree = |way: &Way| -> (usize, usize) {
        let mut counts = (0, 0);
        for (ids, name) in ids.iter().zip(&way.names) {
            let is_inside = |id: &&&str| {
                id.strip_prefix(name.as_str())
                    .is_some_and(|rest| rest.starts_with(['.', '-', ':', '/', '_', '\\']))
            };
            counts.0 += ids.iter().filter(is_inside).count();
            counts.1 += ids.len();
        }
        counts
    };
    let measured: Vec<(Way, (usize, usize))> =
        ways.into_iter().map(|way| (agree(&way), way)).map(|(counts, way)| (way, counts)).collect();
    let best = measured
        .iter()
        .enumerate()
        .max_by_key(|(number, (_, (agree, _)))| (*agree, std::cmp::Reverse(*number)));
    let chosen = match best {
        Some((number, (_, (agree, all)))) if agree * 2 > *all => number,
        _ => measured
            .iter()
            .position(|(way, _)| {
                let distinct: HashSet<&String> = way.names.iter().collect();
                way.is_written && distinct.len() == way.names.len() || distinct.len() > 1
            })
            .unwrap_or(measured.len() - 1),
    };
    let (way, (agree, all)) = &measured[chosen];
    let evidence = match (*all, *agree * 2 > *all) {
        (0, _) => "no ids to hold it against".to_owned(),
        (all, true) => format!("{agree} of {all} ids begin with it"),
        (_, false) => "what tells the files apart".to_owned(),
    };
    ModuleFrom { line: way.line.clone(), evidence, names: way.names.clone() }
}

fn ids_by_file<'s>(study: &Study<'s, '_>, family: usize) -> Vec<Vec<&'s str>> {
    let mut ids = vec![Vec::new(); study.families[family].documents.len()];
    for (number, collection) in study.shapes[family].collections.iter().enumerate() {
        for (item, id) in collection.items.iter().zip(study.ids_of((family, number))) {
            ids[item.file].push(id.as_str());
        }
    }
    ids
}

/// By way to say it the module of each file.
pub(super) fn names_by_file(family: &Family<'_>, shape: &Shape) -> Vec<Vec<String>> {
    ways(family, shape).into_iter().map(|way| way.names).collect()
}

fn ways(of: &Family<'_>, shape: &Shape) -> Vec<Way> {
    let files = of.documents.len();
    let mut ways = Vec::new();
    // A plain field that every file has once: what its first document says counts for those behind it.
    for (path, spots) in &shape.loose {
        let mut found: BTreeMap<usize, &str> = BTreeMap::new();
        for spot in spots {
            found.entry(spot.file).or_insert(of.documents[spot.file].tree.text(spot.node));
        }
        let is_name = |name: &&str| {
            !name.is_empty()
                && name.len() < 80
                && !name.contains(char::is_whitespace)
                && name.starts_with(char::is_alphabetic)
        };
        let mut names: Vec<&str> = Vec::new();
        for (number, document) in of.documents.iter().enumerate() {
            let goes_on = number > 0 && of.documents[number - 1].path == document.path;
            let Some(name) = found.get(&number).or_else(|| names.last().filter(|_| goes_on)).copied() else {
                break;
            };
            names.push(name);
        }
        if names.len() == files
            && spots.len() == found.len()
            && !path.contains('*')
            && found.values().all(is_name)
        {
            let names = names.into_iter().map(str::to_owned).collect();
            ways.push(Way { line: text(path), names, is_written: true });
        }
    }
    let parts: Vec<&str> = of.glob.split('/').collect();
    let folders = &parts[..parts.len() - 1];
    for (number, _) in folders.iter().enumerate().filter(|(_, part)| **part == "*") {
        let before: Vec<String> = folders[..number]
            .iter()
            .map(|part| if *part == "*" { "[^/]+".to_owned() } else { regex::escape(part) })
            .collect();
        let expression =
            format!("^{}(?<module>[^/]+)/", before.iter().map(|part| format!("{part}/")).collect::<String>());
        let names = of
            .documents
            .iter()
            .map(|document| document.path.split('/').nth(number).unwrap_or_default().to_owned());
        ways.push(Way {
            line: format!("{{ path = {} }}", text(&expression)),
            names: names.collect(),
            is_written: false,
        });
    }
    let names: Vec<String> = of.documents.iter().map(|document| stem(document.path)).collect();
    ways.push(Way { line: format!("{{ in-path = {} }}", text(STEM)), names, is_written: false });
    let folder = folders
        .iter()
        .rev()
        .find(|part| **part != "*")
        .map_or_else(|| stem(&of.glob.replace('*', "")), |part| (*part).to_owned());
    let folder = if folder.is_empty() { "all".to_owned() } else { folder };
    ways.push(Way {
        line: format!("{{ constant = {} }}", text(&folder)),
        names: vec![folder; files],
        is_written: false,
    });
    ways
}
