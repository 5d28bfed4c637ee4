//! The numbers of things in the flat arrays that hold them: one type for each array, so that none is looked up in another.

macro_rules! index {
    ($($(#[$doc:meta])* $name:ident)*) => {
        $($(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Default)]
        pub struct $name(pub u32);

        impl $name {
            /// The number of what stands at a position of the array.
            pub fn new(position: usize) -> Self {
                Self(position as u32)
            }

            /// The position in the array.
            pub fn index(self) -> usize {
                self.0 as usize
            }
        })*
    };
}

index! {
    /// The number of a module in [`crate::wiring::Wiring::modules`].
    ModuleIndex
    /// The number of a service in [`crate::facts::Facts::services`].
    ServiceIndex
    /// The number of a need in [`crate::facts::Parts::needs`].
    NeedIndex
    /// The number of an entry in [`crate::facts::Facts::entries`].
    EntryIndex
    /// The number of a provider in [`crate::facts::Facts::providers`].
    ProviderIndex
    /// The number of a question that nothing settles.
    QuestionIndex
    /// The number of a node of the graph of who needs whom.
    Node
    /// The number of a trouble in [`crate::facts::Facts::troubles`].
    TroubleIndex
}

impl From<ServiceIndex> for Node {
    /// Nodes begin with the services.
    fn from(service: ServiceIndex) -> Self {
        Self(service.0)
    }
}
