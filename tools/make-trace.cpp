// SPDX-License-Identifier: GPL-3.0-or-later
// Writes the traces that ship in data/traces: make-trace listener-night|vent-motor > FILE
#include "tracemaker.hpp"

#include <cstdio>
#include <cstring>

int main(int argc, char** argv) {
    using namespace sipper::tracemaker;
    if (argc == 2 && std::strcmp(argv[1], "listener-night") == 0) {
        // The listener's own writes happen only while it listens.
        Recipe r = listenerNight();
        const Happening write = r.happenings[1];
        r.happenings.erase(r.happenings.begin() + 1);
        std::printf("Time (s),Current (mA)\n");
        make(r, [&](double t, double amps) {
            const bool listening = amps > 0.09 && amps < 0.16;
            const double into = std::fmod(t - write.offset + write.every * 4, write.every);
            std::printf("%.2f,%.5g\n", t,
                        1e3 * (listening && into < write.lasts ? write.amps : amps));
        });
        return 0;
    }
    if (argc == 2 && std::strcmp(argv[1], "vent-motor") == 0) {
        std::printf("t [ms];I [uA]\n");
        make(ventMotor(), [](double t, double amps) {
            char text[64];
            std::snprintf(text, sizeof text, "%.0f;%.1f\n", t * 1e3, amps * 1e6);
            for (char& c : text)
                if (c == '.')
                    c = ',';
            std::fputs(text, stdout);
        });
        return 0;
    }
    std::fprintf(stderr, "make-trace: expected listener-night or vent-motor\n");
    return 2;
}
