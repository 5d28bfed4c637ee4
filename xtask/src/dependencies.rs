//! Whether dependencies are what `deny.toml` allows: licences, versions and sources.
//!
//! The tool that the file is for takes longer to build than all checks together may; these are its checks that
//! the file asks for, over what cargo says of every package.

use serde_json::Value;
use spdx::{Expression, ParseMode};
use std::collections::{BTreeMap, BTreeSet};
use std::error::Error;
use std::fs;
use std::process::Command;
use toml_edit::DocumentMut;

/// Says what is not allowed; an error if anything is not.
pub(crate) fn check() -> Result<(), Box<dyn Error>> {
    let rules: DocumentMut = fs::read_to_string("deny.toml")?.parse()?;
    let output = Command::new("cargo").args(["metadata", "--format-version", "1", "--locked"]).output()?;
    let metadata: Value = serde_json::from_slice(&output.stdout)?;
    let wrong = not_allowed(&rules, &metadata);
    for line in &wrong {
        eprintln!("{line}");
    }
    if wrong.is_empty() { Ok(()) } else { Err("dependencies are not what deny.toml allows".into()) }
}

/// What of some packages, as cargo describes them, the rules do not allow: a sentence each, in order.
fn not_allowed(rules: &DocumentMut, metadata: &Value) -> Vec<String> {
    let packages: Vec<&Value> = metadata["packages"].as_array().into_iter().flatten().collect();
    let allowed = texts(rules, "licenses", "allow");
    let skipped = texts(rules, "bans", "skip");
    let mut wrong: Vec<String> = packages.iter().filter_map(|package| licence(package, &allowed)).collect();
    let mut versions: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for package in &packages {
        versions.entry(text(package, "name")).or_default().insert(text(package, "version"));
        wrong.extend(wildcards(package));
    }
    let several = versions.iter().filter(|(name, versions)| versions.len() > 1 && !skipped.contains(**name));
    wrong.extend(several.map(|(name, versions)| format!("{name} is there in versions {versions:?}")));
    let unneeded = skipped.iter().filter(|name| versions.get(name.as_str()).is_none_or(|all| all.len() < 2));
    wrong.extend(unneeded.map(|name| format!("deny.toml skips {name}, which is there in one version")));
    // What comes from no registry has to be our own; and there is one registry alone.
    let sources: BTreeSet<&str> = packages.iter().filter_map(|package| package["source"].as_str()).collect();
    let others = sources.iter().filter(|source| !source.starts_with("registry+"));
    wrong.extend(others.map(|source| format!("{source} is no registry")));
    if sources.len() > 1 {
        wrong.push(format!("crates come from several places: {sources:?}"));
    }
    wrong
}

fn texts(rules: &DocumentMut, table: &str, key: &str) -> BTreeSet<String> {
    let list = rules[table][key].as_array().into_iter().flatten();
    list.filter_map(|one| one.as_str().map(str::to_owned)).collect()
}

fn text<'v>(package: &'v Value, field: &str) -> &'v str {
    package[field].as_str().unwrap_or_default()
}

fn licence(package: &Value, allowed: &BTreeSet<String>) -> Option<String> {
    let (name, terms) = (text(package, "name"), text(package, "license"));
    let Ok(expression) = Expression::parse_mode(terms, ParseMode::LAX) else {
        return Some(format!("{name} has no licence that can be read: {terms:?}"));
    };
    let is_allowed =
        expression.evaluate(|needed| needed.license.id().is_some_and(|id| allowed.contains(id.name)));
    (!is_allowed).then(|| format!("{name} has a licence that is not allowed: {terms}"))
}

/// Dependencies in whatever version.
fn wildcards(package: &Value) -> impl Iterator<Item = String> + '_ {
    let own = package["source"].is_null() && package["publish"].is_null();
    let dependencies = package["dependencies"].as_array().into_iter().flatten().filter(move |_| own);
    // Those for tests are left out of what is published.
    let wild = dependencies.filter(|one| text(one, "req") == "*" && text(one, "kind") != "dev");
    wild.map(|one| format!("{} takes {} in whatever version", text(package, "name"), text(one, "name")))
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn what_is_not_allowed_is_said() {
        let rules = "[licenses]\nallow = ['MIT']\n[bans]\nskip = ['old', 'b']".parse().expect("it is TOML");
        let package = |name: &str, version: &str, license: &str, source: Value| {
            json!({ "name": name, "version": version, "license": license, "source": source, "publish": null,
                "dependencies": [{ "name": "any", "req": "*", "kind": null }, { "name": "t", "req": "*", "kind": "dev" }] })
        };
        let metadata = json!({ "packages": [
            package("own", "1.0.0", "MIT OR Apache-2.0", Value::Null),
            package("a", "1.0.0", "Apache-2.0", "registry+one".into()),
            package("a", "2.0.0", "MIT/Apache-2.0", "git+other".into()),
            package("b", "1.0.0", "MIT AND Zlib", "registry+one".into()),
            package("b", "2.0.0", "", "registry+one".into()),
        ] });
        let expected = [
            "a has a licence that is not allowed: Apache-2.0",
            "b has a licence that is not allowed: MIT AND Zlib",
            "b has no licence that can be read: \"\"",
            "own takes any in whatever version",
            "a is there in versions {\"1.0.0\", \"2.0.0\"}",
            "deny.toml skips old, which is there in one version",
            "git+other is no registry",
            "crates come from several places: {\"git+other\", \"registry+one\"}",
        ];
        assert_eq!(not_allowed(&rules, &metadata), expected);
    }
}
