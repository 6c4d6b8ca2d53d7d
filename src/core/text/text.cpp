// SPDX-License-Identifier: GPL-3.0-or-later
#include "text/text.hpp"

#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {

std::string endText(const Project& p, const Ending& e) {
    const std::string at = nameAt(p, e.at);
    const Mode* mode = p.mode(e.mode);
    const std::string when =
        mode && p.modes.size() > 1
            ? fmt::format(" in mode “{}”{}", nameOf(*mode), e.inBurst ? ", in a burst" : "")
            : "";
    switch (e.reason) {
    case EndReason::collapse:
        return "the supply collapses" + when;
    case EndReason::limit:
        return at + " reaches its limit" + when;
    case EndReason::cutoff:
        return at + " opens" + when;
    case EndReason::aboveWindow:
        return at + " gets too much" + when;
    case EndReason::belowWindow:
        return at + " gets too little" + when;
    case EndReason::empty:
        return "the cells are empty";
    case EndReason::mains:
        return "there are no cells to run down";
    case EndReason::never:
        return "nothing draws, so it does not run down";
    }
    return {};
}

std::string whyNotText(const Project& project, const Swap& swap) {
    return swap.ending ? "at once " + endText(project, *swap.ending) : swap.why;
}

std::string troubleText(StageState state) {
    switch (state) {
    case StageState::off:
        return "off";
    case StageState::limiting:
        return "over its limit";
    case StageState::droppingOut:
        return "no room left";
    case StageState::passing:
        return "passes through";
    case StageState::on:
    case StageState::regulating:
    case StageState::steppingDown:
    case StageState::steppingUp:
    case StageState::holding:
        return {};
    }
    return {};
}

std::string runText(const Runtime& r) {
    if (r.hours)
        return r.hours->value() == 0 ? "never" : writeHours(r.hours->value());
    return r.ending.reason == EndReason::mains ? "no cells" : "for ever";
}

std::string humpsText(const Bimodality& h) {
    // The simplest fraction that is near.
    int best = 1;
    int of = 10;
    double miss = 1;
    for (const int n : {2, 3, 4, 5, 10})
        for (int k = 1; k < n; ++k)
            if (const double off = std::abs(h.share - k / static_cast<double>(n));
                off < miss - 0.02) {
                miss = off;
                best = k;
                of = n;
            }
    return fmt::format("{} in {} builds get further and run {}, the others {}", best, of,
                       writeHours(h.high), writeHours(h.low));
}

int countOf(const std::vector<Finding>& findings, Severity severity) {
    return static_cast<int>(std::count_if(findings.begin(), findings.end(), [&](const Finding& f) {
        return f.severity == severity;
    }));
}

std::string adviceText(const std::vector<Finding>& findings) {
    if (const int stop = countOf(findings, Severity::stop))
        return fmt::format("{} to mend", stop);
    if (const int care = countOf(findings, Severity::care))
        return fmt::format("{} to weigh", care);
    return "all fine";
}

std::string escapeForTerminal(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        // U+0080 to U+009F, the second set of control characters, begins with C2 in UTF-8; the
        // marks that turn the way of writing round (U+202A to U+202E, U+2066 to U+2069) with E2.
        const auto next = i + 1 < text.size() ? static_cast<unsigned char>(text[i + 1]) : 0U;
        const auto third = i + 2 < text.size() ? static_cast<unsigned char>(text[i + 2]) : 0U;
        if (c < 0x20 || c == 0x7F) {
            out += c == '\n'   ? std::string("\\n")
                   : c == '\r' ? std::string("\\r")
                   : c == '\t' ? std::string("\\t")
                               : fmt::format("\\x{:02x}", c);
        } else if (c == 0xC2 && next >= 0x80 && next < 0xA0) {
            out += fmt::format("\\u{:04x}", next);
            ++i;
        } else if (c == 0xE2 && ((next == 0x80 && third >= 0xAA && third <= 0xAE) ||
                                 (next == 0x81 && third >= 0xA6 && third <= 0xA9) ||
                                 (next == 0x80 && (third == 0xA8 || third == 0xA9)))) {
            out += fmt::format("\\u{:04x}", 0x2000U + ((next & 0x3FU) << 6U) + (third & 0x3FU));
            i += 2;
        } else {
            out += text[i];
        }
    }
    return out;
}

namespace {

void tameIn(std::string& text) {
    text = escapeForTerminal(text);
}

/// Of a project or of one of its variants.
template <class Supply>
void tameSupply(Supply& supply) {
    for (Mode& mode : supply.modes)
        tameIn(mode.label);
    for (Stage& stage : supply.stages) {
        tameIn(stage.label);
        if (stage.connector)
            tameIn(stage.connector->kind);
        if (auto* pack = std::get_if<Pack>(&stage.part)) {
            tameIn(pack->cell.id);
            tameIn(pack->cell.label);
            tameIn(pack->cell.size);
        }
    }
    for (Load& load : supply.loads) {
        tameIn(load.label);
        if (load.connector)
            tameIn(load.connector->kind);
    }
}

} // namespace

Project withEscapedText(Project p) {
    tameIn(p.name);
    tameIn(p.notes);
    tameIn(p.variant);
    if (p.brief.climate)
        tameIn(*p.brief.climate);
    tameSupply(p);
    for (Variant& variant : p.variants) {
        tameIn(variant.name);
        tameSupply(variant);
    }
    return p;
}

} // namespace sipper
