//! The demo workspace: the tram network of the made-up city of Velmora.
//!
//! The files in `demo/` are the corrected network. [`faults::FAULTS`] says which edit makes each fault, so that
//! both versions are one text and every fault is known by what it changes.

pub(crate) mod faults;
pub(crate) mod history;

use faults::FAULTS;

macro_rules! files {
    ($($path:literal)*) => {
        &[$((concat!("modules/", $path), include_str!(concat!("../../demo/", $path)))),*]
    };
}

/// Path and text of every manifest of the corrected network.
const MANIFESTS: &[(&str, &str)] = files![
    "crew/crew.wiring.yaml"
    "crew/import.wiring.yaml"
    "crossings/src/Crossings.cs"
    "crossings/src/Requests.cs"
    "depot/depot.wiring.yaml"
    "incidents/drill.wiring.toml"
    "incidents/incidents.wiring.yaml"
    "lifts/lifts.wiring.yaml"
    "lifts/src/Desk.java"
    "lifts/src/Lifts.java"
    "lifts/src/Part.java"
    "lifts/tools/Counter.java"
    "museum/museum.wiring.toml"
    "passenger/announcements.wiring.yaml"
    "passenger/channels.wiring.yaml"
    "signals/signals.wiring.yaml"
    "timetable/start-up.wiring.yaml"
    "timetable/timetable.wiring.yaml"
    "traction/meters.wiring.json"
    "traction/traction.wiring.yaml"
    "vehicles/vehicles.wiring.yaml"
];

/// The workspace file.
const WORKSPACE_FILE: (&str, &str) = ("corvant.toml", include_str!("../../demo/corvant.toml"));

/// Path and text of every file of the corrected network.
fn corrected_files() -> impl Iterator<Item = (&'static str, &'static str)> {
    MANIFESTS.iter().copied().chain([WORKSPACE_FILE])
}

/// Path and text of every file, as they are or corrected.
pub(crate) fn files(corrected: bool) -> Vec<(&'static str, String)> {
    let faults = if corrected { &[] } else { FAULTS };
    let file = |(path, text): (&'static str, &str)| {
        let here = faults.iter().filter(|fault| path.ends_with(fault.file));
        (path, here.fold(text.to_owned(), |text, fault| text.replacen(fault.corrected, fault.faulty, 1)))
    };
    corrected_files().map(file).collect()
}

#[cfg(test)]
mod tests;
