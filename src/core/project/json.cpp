// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/json.hpp"

#include <cmath>
#include <fmt/format.h>
#include <unordered_set>

namespace sipper {
namespace {

constexpr std::size_t kDeepest = 64; ///< our documents nest 8 deep; more is a slip or an attack

class Builder : public nlohmann::json_sax<Json> {
  public:
    explicit Builder(std::string_view text) : m_text(text) {}

    bool null() override { return add(nullptr); }
    bool boolean(bool value) override { return add(value); }
    bool number_integer(number_integer_t value) override { return add(value); }
    bool number_unsigned(number_unsigned_t value) override { return add(value); }
    bool number_float(number_float_t value, const string_t&) override { return add(value); }
    bool string(string_t& value) override { return add(value); }
    bool binary(binary_t&) override { return false; }
    bool start_object(std::size_t) override { return open(Json::object()); }
    bool start_array(std::size_t) override { return open(Json::array()); }
    bool end_object() override { return close(); }
    bool end_array() override { return close(); }
    bool key(string_t& name) override {
        Frame& frame = m_frames.back();
        frame.key = name;
        if (frame.seen.insert(name).second)
            return true;
        m_error = Error{"duplicate_key", pointer(), "the key twice", "each key once", ""};
        return false;
    }
    bool parse_error(std::size_t position, const std::string& token,
                     const nlohmann::detail::exception& exception) override {
        const std::size_t at = std::min(position, m_text.size());
        std::size_t line = 1;
        std::size_t column = 1;
        for (std::size_t i = 0; i + 1 < at; ++i) {
            ++column;
            if (m_text[i] == '\n') {
                ++line;
                column = 1;
            }
        }
        const std::string what = exception.what();
        std::string found = at >= m_text.size() && token.empty() ? "the end of the file" : "";
        if (found.empty()) {
            const auto cut = what.find("; last read: ");
            found = cut == std::string::npos ? "something that is not JSON" : what.substr(cut + 13);
        }
        if (what.find("UTF-8") != std::string::npos)
            found = "bytes that are not UTF-8";
        else if (what.find("out_of_range") != std::string::npos)
            found = "a number too large to hold";
        const std::string place = pointer();
        m_error = Error{
            "not_json",
            fmt::format("{}{}line {}, column {}", place, place.empty() ? "" : " ", line, column),
            found, "one JSON document in UTF-8", ""};
        return false;
    }

    [[nodiscard]] const std::optional<Error>& error() const { return m_error; }
    [[nodiscard]] Json& root() { return m_root; }

  private:
    struct Frame {
        Json value;
        std::string key;
        std::unordered_set<std::string> seen;
    };

    [[nodiscard]] std::string pointer() const {
        std::string text;
        for (const Frame& frame : m_frames)
            if (frame.value.is_array())
                text += fmt::format("/{}", frame.value.size());
            else if (!frame.key.empty())
                text += "/" + pointerStep(frame.key);
        return text;
    }
    bool add(Json value) {
        if (m_frames.empty()) {
            m_root = std::move(value);
            return true;
        }
        Frame& frame = m_frames.back();
        if (frame.value.is_array())
            frame.value.push_back(std::move(value));
        else // emplace_back of the vector beneath: the keys are known to be distinct
            frame.value.get_ref<Json::object_t&>().Json::object_t::Container::emplace_back(
                frame.key, std::move(value));
        return true;
    }
    bool open(Json container) {
        if (m_frames.size() >= kDeepest) {
            m_error = Error{"too_deep", "", fmt::format("brackets nested over {} deep", kDeepest),
                            "a Sipper project", ""};
            return false;
        }
        m_frames.push_back({std::move(container), {}, {}});
        return true;
    }
    bool close() {
        Json done = std::move(m_frames.back().value);
        m_frames.pop_back();
        return add(std::move(done));
    }

    std::string_view m_text;
    std::vector<Frame> m_frames;
    Json m_root;
    std::optional<Error> m_error;
};

} // namespace

Outcome<Json> parseJson(std::string_view text) {
    Builder builder(text);
    const bool whole = Json::sax_parse(text.begin(), text.end(), &builder);
    if (builder.error())
        return *builder.error();
    if (!whole)
        return Error{"not_json", "", "something else", "one JSON document in UTF-8", ""};
    return std::move(builder.root());
}

std::string pointerStep(std::string_view key) {
    std::string text;
    for (const char c : key) {
        if (c == '~')
            text += "~0";
        else if (c == '/')
            text += "~1";
        else if (static_cast<unsigned char>(c) < 0x20)
            text += '?';
        else
            text += c;
    }
    return text;
}

std::string foundText(const Json& value) {
    if (value.is_null())
        return "null";
    if (value.is_object())
        return "an object";
    if (value.is_array())
        return fmt::format("a list of {}", value.size());
    std::string text = value.dump(-1, ' ', true, Json::error_handler_t::replace);
    if (text.size() > 60)
        text = text.substr(0, 57) + "...";
    return text;
}

Json number(double value) {
    if (std::abs(value) < 1e15 && value == std::floor(value))
        return static_cast<std::int64_t>(value);
    return value;
}

} // namespace sipper
