//! Every form in which code registers and looks up, in every language that has it; each with the wrong answer that it invites.

mod conditions;
mod data;
mod declared;
mod forms;
mod mistakes;
mod said;
