//! How much was done, in steps, for tests of how work grows.
//!
//! Whatever hands out a list counts its elements here, on the thread that asks for it, and so do the few loops
//! that go over something else. Only debug builds count; in others this costs nothing.

#[cfg(debug_assertions)]
use std::cell::Cell;

#[cfg(debug_assertions)]
thread_local! {
    static STEPS: Cell<u64> = const { Cell::new(0) };
}

/// Counts steps on this thread.
#[inline]
pub fn count(steps: usize) {
    #[cfg(debug_assertions)]
    STEPS.with(|all| all.set(all.get() + steps as u64));
    #[cfg(not(debug_assertions))]
    let _ = steps;
}

/// Does something on one thread only, and says in how many steps; none are counted outside debug builds.
///
/// # Panics
///
/// If the system gives no thread.
pub fn measured<T: Send>(act: impl FnOnce() -> T + Send) -> (T, u64) {
    let pool = rayon::ThreadPoolBuilder::new().num_threads(1).build().expect("the system gives a thread");
    pool.install(|| {
        let before = steps();
        let made = act();
        (made, steps() - before)
    })
}

fn steps() -> u64 {
    #[cfg(debug_assertions)]
    return STEPS.with(Cell::get);
    #[cfg(not(debug_assertions))]
    0
}
