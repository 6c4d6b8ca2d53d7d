// SPDX-License-Identifier: GPL-3.0-or-later
// What a search on another thread has counted and found so far, for who shows it now and then.
#pragma once

#include "search/search.hpp"

#include <memory>
#include <mutex>

namespace sipper::app {

class LiveSearch {
  public:
    /// Hears of the search; keeps the watch alive with it.
    [[nodiscard]] static SearchProgress listener(std::shared_ptr<LiveSearch> live) {
        return [live = std::move(live)](const SearchCounts& counts,
                                        const std::vector<Candidate>& kept) {
            const std::scoped_lock lock(live->m_mutex);
            live->m_counts = counts;
            for (std::size_t i = live->m_kept.size(); i < kept.size(); ++i)
                live->m_kept.push_back(kept[i]);
        };
    }
    [[nodiscard]] SearchCounts counts() const {
        const std::scoped_lock lock(m_mutex);
        return m_counts;
    }
    /// All that does it so far, where that is more than `known`; else nothing.
    [[nodiscard]] std::vector<Candidate> keptBeyond(std::size_t known) const {
        const std::scoped_lock lock(m_mutex);
        return m_kept.size() > known ? m_kept : std::vector<Candidate>();
    }

  private:
    mutable std::mutex m_mutex;
    SearchCounts m_counts;
    std::vector<Candidate> m_kept;
};

} // namespace sipper::app
