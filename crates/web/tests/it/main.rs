//! Routes by `oneshot`: rules of the pages that need no browser.

mod app;
mod forms;
mod guard;
mod pages;
