//! Which classes of a bundle may register a service: those whose constants name both the call that registers and the
//! interface. Nothing is run, and no more is looked at than the constants.

use crate::standards::archive::Archive;
use crate::standards::has_ending;
use crate::standards::java::type_of_class_file;
use cafebabe::constant_pool::{ConstantPoolItem, LiteralConstant};
use foldhash::HashSet;
use memchr::memmem;
use std::path::Path;

/// The call that registers a service (OSGi Core, `BundleContext`).
const CALL: &[u8] = b"registerService";

/// A class that registers something.
#[derive(Debug)]
pub(crate) struct RegisteringClass {
    pub(crate) name: String,
    /// The types that its constants name, and texts that may name one.
    pub(crate) named: HashSet<String>,
}

/// The classes of a bundle that register something; `None`: it cannot be known.
pub(crate) fn registering(on_disk: &Path) -> Option<Vec<RegisteringClass>> {
    let taken = crate::standards::Taken::default();
    let mut archive = Archive::again(on_disk, &taken)?;
    let (mut found, mut has_classes) = (Vec::new(), false);
    for number in 0..archive.zip.len() {
        let Some(path) = archive.name(number) else { continue };
        // Code in jars in it is not looked into, and may be all there is.
        if has_ending(&path, ".jar") {
            return None;
        }
        let Some(name) = type_of_class_file(&path) else { continue };
        has_classes = true;
        let bytes = archive.bytes(number, &path)?;
        if memmem::find(&bytes, CALL).is_some() {
            found.push(RegisteringClass { name, named: named(&bytes)? });
        }
    }
    has_classes.then_some(found)
}

/// The names among the constants of a class.
fn named(bytes: &[u8]) -> Option<HashSet<String>> {
    let mut options = cafebabe::ParseOptions::default();
    options.parse_bytecode(false);
    let class = cafebabe::parse_class_with_options(bytes, &options).ok()?;
    let names = class.constantpool_iter().filter_map(|item| match item {
        ConstantPoolItem::ClassInfo(name) => Some(name.replace('/', ".")),
        ConstantPoolItem::LiteralConstant(LiteralConstant::String(text)) => Some(text.into_owned()),
        _ => None,
    });
    Some(names.collect())
}
