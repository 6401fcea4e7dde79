//! The whole of Wembrit from outside: the real binary, a real browser.

mod browser;
mod shots;
mod views;
