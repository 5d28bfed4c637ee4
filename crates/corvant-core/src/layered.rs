//! Flat arrays that stages share, each with what it has of its own laid over.

use foldhash::HashMap;
use std::sync::Arc;

/// A flat array, or a layer over one: elements that were set in the layer hide those below.
///
/// A stage changes little of what holds with none chosen; to copy arrays of millions for each would take
/// longer than all else that is done for a stage.
#[derive(Clone, Debug)]
pub(crate) struct Layered<T> {
    below: Arc<Vec<T>>,
    /// One bit for each element below: whether the layer has one in its place. Empty where there is no layer.
    hidden: Vec<u64>,
    own: HashMap<u32, T>,
    len: usize,
}

impl<T> Default for Layered<T> {
    fn default() -> Self {
        Self { below: Arc::default(), hidden: Vec::new(), own: HashMap::default(), len: 0 }
    }
}

impl<T> From<Vec<T>> for Layered<T> {
    fn from(all: Vec<T>) -> Self {
        let len = all.len();
        Self { below: Arc::new(all), len, ..Self::default() }
    }
}

impl<T: Copy> Layered<T> {
    /// A layer over this array, still without anything of its own.
    pub(crate) fn layer(&self) -> Self {
        let mut layer = self.clone();
        layer.hidden.resize(self.below.len().div_ceil(64), 0);
        layer
    }

    /// How many elements there are.
    pub(crate) fn len(&self) -> usize {
        self.len
    }

    /// The element at a place that there is.
    pub(crate) fn get(&self, at: usize) -> T {
        let word = self.hidden.get(at / 64).copied().unwrap_or(0);
        if at < self.below.len() && word & (1 << (at % 64)) == 0 {
            self.below[at]
        } else {
            self.own[&(at as u32)]
        }
    }

    /// Puts another element in a place that there is.
    pub(crate) fn set(&mut self, at: usize, element: T) {
        if self.hidden.is_empty()
            && let Some(all) = Arc::get_mut(&mut self.below)
        {
            all[at] = element;
            return;
        }
        if at < self.below.len() {
            self.hidden.resize(self.below.len().div_ceil(64), 0);
            self.hidden[at / 64] |= 1 << (at % 64);
        }
        self.own.insert(at as u32, element);
    }

    /// Adds an element at the end.
    pub(crate) fn push(&mut self, element: T) {
        self.len += 1;
        match Arc::get_mut(&mut self.below) {
            Some(all) if self.hidden.is_empty() => all.push(element),
            _ => _ = self.own.insert(self.len as u32 - 1, element),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_layer_hides_what_is_below_and_leaves_it_as_it_was() {
        let mut below = Layered::from((0..200).collect::<Vec<u32>>());
        below.set(7, 1_007);
        let mut layer = below.layer();
        layer.set(7, 2_007);
        layer.set(199, 2_199);
        layer.push(2_200);
        let mut second = layer.layer();
        second.set(200, 3_200);
        second.set(8, 3_008);
        let all = |layered: &Layered<u32>| [7, 8, 199].map(|at| layered.get(at));
        assert_eq!((all(&below), below.len()), ([1_007, 8, 199], 200));
        assert_eq!((all(&layer), layer.get(200), layer.len()), ([2_007, 8, 2_199], 2_200, 201));
        assert_eq!((all(&second), second.get(200)), ([2_007, 3_008, 2_199], 3_200));
    }

    #[test]
    fn an_array_without_layers_grows_in_place() {
        let mut all = Layered::default();
        for number in 0..100_u32 {
            all.push(number);
        }
        all.set(50, 1);
        assert_eq!((all.get(49), all.get(50), all.own.len()), (49, 1, 0));
    }

    /// What can be done with an array.
    #[derive(Clone, Debug)]
    enum Act {
        Set(usize, u32),
        Push(u32),
        /// Everything after this is done to a layer over what there is.
        Layer,
    }

    fn acts() -> impl Strategy<Value = Vec<Act>> {
        let act = prop_oneof![
            4 => (0_usize..300, any::<u32>()).prop_map(|(at, element)| Act::Set(at, element)),
            2 => any::<u32>().prop_map(Act::Push),
            1 => Just(Act::Layer),
        ];
        proptest::collection::vec(act, 0..60)
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn layers_are_as_copies_would_be(start in proptest::collection::vec(any::<u32>(), 1..200), acts in acts()) {
            let mut layers = vec![Layered::from(start.clone())];
            let mut copies = vec![start];
            for act in acts {
                let (layer, copy) = (layers.last_mut().expect("one"), copies.last_mut().expect("one"));
                match act {
                    Act::Set(at, element) => {
                        let at = at % copy.len();
                        layer.set(at, element);
                        copy[at] = element;
                    }
                    Act::Push(element) => {
                        layer.push(element);
                        copy.push(element);
                    }
                    Act::Layer => {
                        let (layer, copy) = (layer.layer(), copy.clone());
                        layers.push(layer);
                        copies.push(copy);
                    }
                }
            }
            // Those below are as they were when the next was laid over them.
            for (layer, copy) in layers.iter().zip(&copies) {
                let elements: Vec<u32> = (0..layer.len()).map(|at| layer.get(at)).collect();
                prop_assert_eq!(&elements, copy);
            }
        }
    }
}
