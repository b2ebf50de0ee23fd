#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/pictures/size_picture.hpp"
#include "mesh/plane/generate.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

constexpr double enough_elements = 1e8;

Vec2 read_place(const std::string& text) {
    const auto comma = text.find(',');
    try {
        std::size_t used_x = 0, used_y = 0;
        const std::string x = text.substr(0, comma), y = comma == std::string::npos ? "" : text.substr(comma + 1);
        const Vec2 p{{std::stod(x, &used_x), std::stod(y, &used_y)}};
        if (used_x == x.size() && used_y == y.size()) return p;
    } catch (const std::exception&) {  // told below
    }
    throw InputError(fmt::format("--at is \"{}\", which is no place", text), {}, "as in: --at 12.5,30");
}

/// Points on the outline count.
bool in_part(const Part& part, const Vec2& p) {
    return part.holds(p, same_point_share * part.box.diagonal());
}

}  // namespace

int sizes(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift sizes",
                             "Shows the element size that a study's rules ask for, which rule decides where, and how "
                             "many elements that makes. With -o also as pictures: sizes.png and rules.png (and .svg).");
    options.add_options()("help", "print this")("o,output", "directory for the pictures",
                                                cxxopts::value<std::string>())(
        "at", "the size at a place and the rule behind it, as in 12.5,30; may be repeated",
        cxxopts::value<std::vector<std::string>>())(
        "finer", "divide every size by this", cxxopts::value<double>()->default_value("1"))("json", "print as JSON")(
        "study", "study file", cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY [--at X,Y] [-o DIRECTORY]");
    // A place holds a comma, so the values are taken whole.
    std::vector<std::string> places, others;
    for (std::size_t i = 0; i < arguments.size(); ++i) {
        if (arguments[i] == "--at" && i + 1 < arguments.size())
            places.push_back(arguments[++i]);
        else if (arguments[i].rfind("--at=", 0) == 0)
            places.push_back(arguments[i].substr(5));
        else
            others.push_back(arguments[i]);
    }
    const auto given = parse(options, others);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift sizes examples/tidal/cable-gland-flange.toml --at 10,0\n", options.help());
        return 0;
    }
    if (!given.count("study")) throw InputError("no study file is given", {}, "as in: dotsift sizes study.toml -o out");
    const double finer = given["finer"].as<double>();
    if (!(finer > 0)) throw InputError(fmt::format("--finer is {:g}, but it must be greater than zero", finer));
    const StudyAndPart opened = load_plane(given["study"].as<std::string>(), "sizes");
    const Study& study = opened.study;
    const Sizing sizing = sizing_of(opened.part, study.sizes, study.path).scaled(1 / finer);
    const SizeField& field = sizing.field;
    const std::string length = study.units.label(dimension::length);
    const auto shares = rule_shares(opened.part, field, study.sizes);
    const double elements = estimate_elements(opened.part, sizing, enough_elements);
    nlohmann::ordered_json json{{"format", 1}, {"estimated_elements", std::llround(elements)}};
    std::vector<std::vector<std::string>> rows{{"rule", "decides on", "smallest", "largest", "smallest at"}};
    for (const auto& s : shares) {
        const bool decides = s.largest > 0;
        json["rules"].push_back({{"rule", s.name}, {"area_share", s.area_share}});
        if (decides) {
            json["rules"].back()["smallest"] = s.smallest;
            json["rules"].back()["largest"] = s.largest;
            json["rules"].back()["smallest_at"] = {s.smallest_at[0], s.smallest_at[1]};
        }
        rows.push_back({s.name, decides ? percent(s.area_share) : "nowhere", decides ? sensible(s.smallest) : "-",
                        decides ? sensible(s.largest) : "-", decides ? told_point(s.smallest_at) : "-"});
    }
    std::string answers;
    for (const auto& text : places) {
        const Vec2 p = read_place(text);
        const auto answer = field.query(p);
        const std::string rule = name_of_rule(study.sizes, answer.rule);
        json["at"].push_back(
            {{"position", {p[0], p[1]}}, {"size", answer.size}, {"rule", rule}, {"inside", in_part(opened.part, p)}});
        answers += fmt::format("at ({:g}, {:g}): {} {}, because of {}{}\n", p[0], p[1], sensible(answer.size), length,
                               rule, in_part(opened.part, p) ? "" : " (outside the part)");
    }
    if (given.count("output")) {
        const std::filesystem::path directory = given["output"].as<std::string>();
        const SizePictures pictures = draw_sizes(opened.part, field, study.sizes, study.title, length);
        make_directory(directory);
        write_picture(directory / "sizes", pictures.sizes);
        write_picture(directory / "rules", pictures.rules);
    }
    if (given.count("json")) {
        fmt::print("{}\n", json.dump(2));
        return 0;
    }
    fmt::print("{}, sizes in {}\n{}{}about {} elements\n", strong(study.title), length, table(rows), answers,
               grouped(std::llround(elements)));
    if (given.count("output")) fmt::print("written   {}\n", given["output"].as<std::string>());
    return 0;
}

}  // namespace dotsift::app
