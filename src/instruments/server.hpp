// SPDX-License-Identifier: GPL-3.0-or-later
// Raw TCP on the loopback alone: lines in, answers out, for the three simulated instruments.
#pragma once

#include "instruments/instruments.hpp"

#include <boost/asio.hpp>
#include <chrono>
#include <memory>

namespace sipper::instruments {

struct Ports {
    unsigned short meter = 0;
    unsigned short load = 0;
    unsigned short supply = 0;
};

/// Serves until SIGTERM or SIGINT. One thread: whoever waits blocks nobody.
class Server {
  public:
    /// Opens the ports (0: any free one). Throws boost::system::system_error for a busy one.
    Server(SimulatedBench& bench, InstrumentSet& instruments, const Ports& ports, double speed);
    [[nodiscard]] Ports ports() const;
    void run();

    /// Brings the bench's clock up to now; what is too much for one turn waits for the next.
    void catchUp();

  private:
    class Door;
    class Client;
    void tick();

    SimulatedBench& m_bench;
    InstrumentSet& m_instruments;
    double m_speed;
    double m_due = 0; ///< s of the bench's clock that are still to come
    std::chrono::steady_clock::time_point m_seen;
    boost::asio::io_context m_io;
    boost::asio::steady_timer m_timer;
    boost::asio::signal_set m_signals;
    std::vector<std::unique_ptr<Door>> m_doors;

  public:
    ~Server();
};

} // namespace sipper::instruments
