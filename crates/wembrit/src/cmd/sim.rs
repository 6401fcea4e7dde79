//! `wembrit sim`: a simulated printer at an address.

use std::net::SocketAddr;
use std::path::PathBuf;

use clap::Args;
use wembrit_sim::{Sim, Spec};

use super::CommandError;
use super::serve::{asked_to_stop, bind};

/// Where it answers, and what it is like.
#[derive(Debug, Args)]
pub(crate) struct Simulated {
    /// Address and port; port 0 takes a free one. Only this machine reaches it: it asks nobody who they are.
    #[arg(long, default_value = "127.0.0.1:7611", value_name = "ADDRESS:PORT")]
    listen: SocketAddr,
    /// What it is called.
    #[arg(long, default_value = "Plover", value_name = "NAME")]
    name: String,
    /// How far its plate goes up, mm.
    #[arg(long, default_value_t = 200.0, value_name = "MM", value_parser = positive)]
    travel: f64,
    /// What its vat takes, ml; it is full when it is made.
    #[arg(long, default_value_t = 500.0, value_name = "ML", value_parser = positive)]
    vat: f64,
    /// How many times as fast as the clock it prints.
    #[arg(long, default_value_t = 1.0, value_name = "TIMES", value_parser = positive)]
    speed: f64,
    /// Something goes wrong with one job in three; the same seed brings the same faults.
    #[arg(long, value_name = "NUMBER")]
    seed: Option<u64>,
    /// Remember what hangs in it in this folder; else it forgets everything when it ends.
    #[arg(long, value_name = "FOLDER")]
    data: Option<PathBuf>,
}

fn positive(text: &str) -> Result<f64, String> {
    let number: f64 = text.parse().map_err(|_| "write a number".to_owned())?;
    if number.is_finite() && number > 0.0 {
        Ok(number)
    } else {
        Err("write a number above 0".into())
    }
}

impl Simulated {
    #[expect(
        clippy::print_stdout,
        reason = "whoever starts it has to know where it answers"
    )]
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        if !self.listen.ip().is_loopback() {
            return Err(CommandError::SimBeyond(self.listen));
        }
        let spec = Spec {
            name: self.name.clone(),
            travel_mm: self.travel,
            vat_ml: self.vat,
            seed: self.seed,
        };
        let sim = Sim::open(self.data.as_deref(), spec)?;
        sim.with(|machine| machine.goes(self.speed))?;
        let runtime = tokio::runtime::Runtime::new().map_err(CommandError::Runtime)?;
        runtime.block_on(async {
            let (listener, address) = bind(self.listen).await?;
            println!("{} answers on http://{address}", self.name);
            sim.serve(listener, asked_to_stop()).await?;
            Ok(())
        })
    }
}
