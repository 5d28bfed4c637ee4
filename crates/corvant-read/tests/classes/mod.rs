//! Jars for tests, and the class files that most of them hold.

use std::io::{Cursor, Write};
use zip::write::{SimpleFileOptions, ZipWriter};

/// An archive of some files.
pub(crate) fn archive(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut writer = ZipWriter::new(Cursor::new(Vec::new()));
    for (path, bytes) in files {
        writer.start_file(*path, SimpleFileOptions::default()).unwrap();
        writer.write_all(bytes).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

/// The class files of `Gate.java`, as a compiler made them.
pub(crate) const CLASSES: [(&str, &[u8]); 7] = [
    ("velmora/depot/Gate.class", include_bytes!("Gate.class")),
    ("velmora/depot/Opening.class", include_bytes!("Opening.class")),
    ("velmora/depot/Lamp.class", include_bytes!("Lamp.class")),
    ("velmora/depot/Clock.class", include_bytes!("Clock.class")),
    ("velmora/depot/Siren.class", include_bytes!("Siren.class")),
    ("velmora/depot/Yard.class", include_bytes!("Yard.class")),
    ("velmora/depot/Under.class", include_bytes!("Under.class")),
];
