// SPDX-License-Identifier: GPL-3.0-or-later
#include "server.hpp"

#include <deque>
#include <set>

namespace sipper::instruments {
namespace {

namespace asio = boost::asio;
using asio::ip::tcp;
using boost::system::error_code;
using Clock = std::chrono::steady_clock;

constexpr std::size_t kMostClients = 16;
constexpr std::size_t kLongestLine = 1024;
constexpr std::size_t kMostUnread = std::size_t{64} * 1024;
constexpr auto kSilence = std::chrono::seconds(60);
constexpr auto kTick = std::chrono::milliseconds(40);
constexpr auto kMostWork = std::chrono::milliseconds(25);
constexpr double kPiece = 20; ///< s of the bench's clock between two looks at the time

} // namespace

/// One client: its lines, its answers, its errors.
class Server::Client : public std::enable_shared_from_this<Client> {
  public:
    Client(Server& server, tcp::socket socket, Instrument instrument, Door& door)
        : m_server(server), m_door(door), m_socket(std::move(socket)),
          m_timer(m_socket.get_executor()),
          m_session(server.m_instruments.commands(instrument), identityOf(instrument)) {
        m_session.reset = [&server, instrument] { server.m_instruments.reset(instrument); };
    }
    void start() {
        wait();
        read();
    }
    void close();

  private:
    void wait() {
        m_timer.expires_after(kSilence);
        m_timer.async_wait([self = shared_from_this()](const error_code& code) {
            if (!code)
                self->close();
        });
    }
    void read() {
        m_socket.async_read_some(
            asio::buffer(m_block),
            [self = shared_from_this()](const error_code& code, std::size_t size) {
                if (code) {
                    self->ended(code);
                    return;
                }
                self->wait();
                self->take(std::string_view(self->m_block.data(), size));
                if (self->m_socket.is_open())
                    self->read();
            });
    }
    /// The other side says no more: what was asked is still answered.
    void ended(const error_code& code) {
        m_timer.cancel();
        if (code == asio::error::eof && !m_out.empty())
            m_last = true;
        else
            close();
    }
    void take(std::string_view text) {
        for (const char c : text) {
            if (c == '\n') {
                if (m_dropping)
                    m_session.tooLong();
                else
                    answer();
                m_line.clear();
                m_dropping = false;
            } else if (!m_dropping) {
                m_line += c;
                if (m_line.size() > kLongestLine) {
                    m_dropping = true;
                    m_line.clear();
                }
            }
        }
    }
    void answer() {
        m_server.catchUp();
        const auto text = m_session.line(m_line);
        if (!text)
            return;
        m_unread += text->size() + 1;
        m_out.push_back(*text + "\n");
        if (m_unread > kMostUnread)
            close();
        else if (m_out.size() == 1)
            write();
    }
    void write() {
        asio::async_write(m_socket, asio::buffer(m_out.front()),
                          [self = shared_from_this()](const error_code& code, std::size_t) {
                              if (code || self->m_out.empty()) {
                                  self->close();
                                  return;
                              }
                              self->m_unread -= self->m_out.front().size();
                              self->m_out.pop_front();
                              if (!self->m_out.empty())
                                  self->write();
                              else if (self->m_last)
                                  self->close();
                          });
    }

    Server& m_server;
    Door& m_door;
    tcp::socket m_socket;
    asio::steady_timer m_timer;
    ScpiSession m_session;
    std::array<char, 4096> m_block{};
    std::string m_line;
    bool m_dropping = false;
    bool m_last = false;
    std::deque<std::string> m_out;
    std::size_t m_unread = 0;
};

/// One port with its clients.
class Server::Door {
  public:
    Door(Server& server, Instrument instrument, unsigned short port)
        : m_server(server), m_instrument(instrument), m_acceptor(server.m_io) {
        const tcp::endpoint here(asio::ip::address_v4::loopback(), port);
        m_acceptor.open(here.protocol());
        m_acceptor.set_option(tcp::acceptor::reuse_address(true));
        m_acceptor.bind(here);
        m_acceptor.listen();
        accept();
    }
    [[nodiscard]] unsigned short port() const { return m_acceptor.local_endpoint().port(); }
    void left(const std::shared_ptr<Client>& client) { m_clients.erase(client); }

  private:
    void accept() {
        m_acceptor.async_accept([this](const error_code& code, tcp::socket socket) {
            if (code == asio::error::operation_aborted)
                return;
            if (!code && m_clients.size() < kMostClients) {
                auto client =
                    std::make_shared<Client>(m_server, std::move(socket), m_instrument, *this);
                m_clients.insert(client);
                client->start();
            } // one too many is closed as its socket goes
            accept();
        });
    }

    Server& m_server;
    Instrument m_instrument;
    tcp::acceptor m_acceptor;
    std::set<std::shared_ptr<Client>> m_clients;
};

void Server::Client::close() {
    m_timer.cancel();
    error_code ignored;
    m_socket.shutdown(tcp::socket::shutdown_both, ignored);
    m_socket.close(ignored);
    m_door.left(shared_from_this());
}

Server::Server(SimulatedBench& bench, InstrumentSet& instruments, const Ports& ports, double speed)
    : m_bench(bench), m_instruments(instruments), m_speed(speed), m_seen(Clock::now()),
      m_timer(m_io), m_signals(m_io, SIGINT, SIGTERM) {
    m_doors.push_back(std::make_unique<Door>(*this, Instrument::meter, ports.meter));
    m_doors.push_back(std::make_unique<Door>(*this, Instrument::load, ports.load));
    m_doors.push_back(std::make_unique<Door>(*this, Instrument::supply, ports.supply));
    m_signals.async_wait([this](const error_code& code, int) {
        if (!code)
            m_io.stop();
    });
}

Server::~Server() = default;

Ports Server::ports() const {
    return {m_doors[0]->port(), m_doors[1]->port(), m_doors[2]->port()};
}

void Server::run() {
    tick();
    m_io.run();
}

void Server::catchUp() {
    const auto now = Clock::now();
    m_due += m_speed * std::chrono::duration<double>(now - m_seen).count();
    m_seen = now;
    while (m_due > 0) {
        const double piece = std::min(m_due, kPiece);
        m_bench.advance(piece);
        m_due -= piece;
        if (Clock::now() - now > kMostWork)
            return;
    }
}

void Server::tick() {
    catchUp();
    m_timer.expires_after(kTick);
    m_timer.async_wait([this](const error_code& code) {
        if (!code)
            tick();
    });
}

} // namespace sipper::instruments
