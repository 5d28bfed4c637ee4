//! The core, on what readers give it.

mod answers_brute;
mod atlas;
mod compare;
mod cycles;
mod determinism;
mod fixes;
mod ground_truth;
mod joined;
mod mended;
mod one_cause;
mod policy;
mod registered;
mod resolve;
mod semantics;
mod shapes;
mod stages;
#[cfg(debug_assertions)]
mod work;
