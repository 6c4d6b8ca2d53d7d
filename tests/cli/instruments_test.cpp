// SPDX-License-Identifier: GPL-3.0-or-later
// sipper-instruments as a program: real sockets on the loopback, many clients, garbage, its end.
#include "support.hpp"

#include <arpa/inet.h>
#include <array>
#include <csignal>
#include <netinet/in.h>
#include <nlohmann/json.hpp>
#include <sys/socket.h>
#include <sys/time.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace sipper;

namespace {

/// The program, and its end with the test.
class Running {
  public:
    explicit Running(const std::vector<std::string>& options) {
        std::array<int, 2> pipe{};
        REQUIRE(::pipe(pipe.data()) == 0);
        m_pid = ::fork();
        if (m_pid == 0) {
            ::dup2(pipe[1], 1);
            ::close(pipe[0]);
            std::vector<char*> arguments{const_cast<char*>(SIPPER_INSTRUMENTS)};
            for (const std::string& o : options)
                arguments.push_back(const_cast<char*>(o.c_str()));
            arguments.push_back(nullptr);
            ::execv(SIPPER_INSTRUMENTS, arguments.data());
            ::_exit(127);
        }
        ::close(pipe[1]);
        std::string line;
        char c = 0;
        while (::read(pipe[0], &c, 1) == 1 && c != '\n')
            line += c;
        ::close(pipe[0]);
        m_said = nlohmann::json::parse(line, nullptr, false);
    }
    ~Running() {
        if (m_pid > 0)
            static_cast<void>(end());
    }
    Running(const Running&) = delete;
    Running& operator=(const Running&) = delete;
    [[nodiscard]] int port(const char* name) const { return m_said.at(name).get<int>(); }
    /// What it exits with after a SIGTERM.
    int end() {
        ::kill(m_pid, SIGTERM);
        int status = 0;
        ::waitpid(m_pid, &status, 0);
        m_pid = 0;
        return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    }

  private:
    pid_t m_pid = 0;
    nlohmann::json m_said;
};

class Plug {
  public:
    explicit Plug(int port) : m_socket(::socket(AF_INET, SOCK_STREAM, 0)) {
        sockaddr_in there{};
        there.sin_family = AF_INET;
        there.sin_port = htons(static_cast<std::uint16_t>(port));
        there.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        m_open = ::connect(m_socket, reinterpret_cast<sockaddr*>(&there), sizeof there) == 0;
        timeval patience{10, 0};
        ::setsockopt(m_socket, SOL_SOCKET, SO_RCVTIMEO, &patience, sizeof patience);
    }
    ~Plug() { ::close(m_socket); }
    Plug(const Plug&) = delete;
    Plug& operator=(const Plug&) = delete;
    [[nodiscard]] bool open() const { return m_open; }
    void put(const std::string& text) const {
        static_cast<void>(::send(m_socket, text.data(), text.size(), MSG_NOSIGNAL));
    }
    void noMore() const { ::shutdown(m_socket, SHUT_WR); }
    /// A line, or what came before the other side closed.
    [[nodiscard]] std::string get() const {
        std::string line;
        char c = 0;
        while (::recv(m_socket, &c, 1, 0) == 1 && c != '\n')
            line += c;
        return line;
    }
    [[nodiscard]] std::string ask(const std::string& query) const {
        put(query + "\n");
        return get();
    }

  private:
    int m_socket;
    bool m_open = false;
};

std::string bellows() {
    return test::file("reference/paper-bellows.sipper").string();
}

} // namespace

TEST_CASE("a discharge is run over the loopback, faster than the clock", "[instruments]") {
    Running run({bellows(), "--speed", "20000", "--seed", "4"});
    const Plug load(run.port("load"));
    REQUIRE(load.open());
    CHECK(load.ask("*IDN?") == "Sipper,simulated load,0,1.0");
    load.put("*RST;:FUNC POW;:POW 30;:INP:CUT 6.0;:INP:CLE\nINP ON\n");
    int looks = 0;
    while (load.ask("INP?") == "1" && ++looks < 2000)
        ::usleep(10000);
    CHECK(load.ask("INP:CUT:TRIP?") == "1");
    const double ah = std::stod(load.ask("MEAS:CAP?"));
    CHECK(ah > 4.5);
    CHECK(ah < 6.1);
    CHECK(load.ask("SYST:ERR?") == "0,\"No error\"");
    CHECK(run.end() == 0);
}

TEST_CASE("garbage, half lines, long lines and many clients trouble nobody", "[instruments]") {
    Running run({bellows(), "--speed", "0"});
    const int port = run.port("meter");
    const Plug good(port);
    {
        const Plug bad(port);
        std::string noise(5000, '\0');
        for (std::size_t i = 0; i < noise.size(); ++i)
            noise[i] = static_cast<char>((i * 7919 + 13) % 256);
        bad.put(noise + "\n*CLS\n");
        bad.put(std::string(3000, 'A') + "\n");
        bad.put("MEAS:VO"); // half a line
        CHECK(good.ask("*OPC?") == "1");
        bad.put("LT?\n");
        CHECK(std::stod(bad.get()) == Approx(8.38).epsilon(0.01));
        CHECK_THAT(bad.ask("SYST:ERR?"), Catch::StartsWith("-363"));
    }
    {
        const Plug half(port);
        half.put("*IDN?\n*OPC?\n");
        half.noMore();
        CHECK(half.get() == "Sipper,simulated meter,0,1.0");
        CHECK(half.get() == "1");
        CHECK(half.get().empty());
    }
    std::vector<std::unique_ptr<Plug>> many;
    int served = 0;
    for (int i = 0; i < 50; ++i)
        many.push_back(std::make_unique<Plug>(port));
    for (const auto& wire : many)
        served += wire->ask("*OPC?") == "1" ? 1 : 0;
    CHECK(served >= 14);
    CHECK(served <= 16);
    CHECK(good.ask("*OPC?") == "1");
    many.clear();
    ::usleep(200000);
    CHECK(Plug(port).ask("*OPC?") == "1");
    // The clock stands still unless it is told.
    CHECK(std::stod(good.ask("SYST:CLOC?")) == 0);
    good.put("SYST:CLOC:ADV 90\n");
    CHECK(std::stod(good.ask("SYST:CLOC?")) == Approx(90));
    // Its port is taken: another says so and ends.
    const std::string command = std::string("'") + SIPPER_INSTRUMENTS + "' '" + bellows() +
                                "' --meter " + std::to_string(port) + " 2>/dev/null";
    CHECK(WEXITSTATUS(std::system(command.c_str())) == 2);
    CHECK(run.end() == 0);
}

TEST_CASE("a bad file ends the instruments with one line", "[instruments]") {
    const std::string command =
        std::string("'") + SIPPER_INSTRUMENTS + "' /nowhere.sipper >/dev/null 2>&1";
    CHECK(WEXITSTATUS(std::system(command.c_str())) == 2);
}
