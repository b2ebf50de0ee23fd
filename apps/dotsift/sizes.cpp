#include <fmt/format.h>

#include <functional>
#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/pictures/size_picture.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/solid/body_finder.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

constexpr double enough_elements = 1e8;

/// "12.5,30": as many numbers as the place has coordinates.
template <int D>
Vec<D> read_place(const std::string& text) {
    Vec<D> p{};
    std::size_t k = 0, from = 0;
    try {
        for (; k < D && from <= text.size(); ++k) {
            const std::size_t comma = std::min(text.find(',', from), text.size());
            const std::string number = text.substr(from, comma - from);
            std::size_t used = 0;
            p[k] = std::stod(number, &used);
            if (used != number.size()) break;
            from = comma + 1;
        }
        if (k == D && from == text.size() + 1) return p;
    } catch (const std::exception&) {  // told below
    }
    throw InputError(fmt::format("--at is \"{}\", which is no place", text), {},
                     D == 2 ? "as in: --at 12.5,30" : "as in: --at 12.5,30,8");
}

/// Points on the outline count.
bool in_part(const Part& part, const Vec2& p) {
    return part.holds(p, same_point_share * part.box.diagonal());
}
bool in_part(const SolidPart& part, const Vec3& p) {
    return BodyFinder(part).holds(p);
}

template <int D>
struct SizesAsked {
    const StudyAndPart& opened;
    const PartIn<D>& part;
    const SizeFieldIn<D>& field;
    std::vector<RuleShareIn<D>> shares;
    double elements;
    std::function<SizePictures()> draw;
};

template <int D>
int tell_sizes(const SizesAsked<D>& asked, const std::vector<std::string>& places, const cxxopts::ParseResult& given) {
    const Study& study = asked.opened.study;
    const std::string length = study.units.label(dimension::length);
    const char* share = D == 2 ? "area_share" : "volume_share";
    nlohmann::ordered_json json{{"format", 1}, {"estimated_elements", std::llround(asked.elements)}};
    std::vector<std::vector<std::string>> rows{{"rule", "decides on", "smallest", "largest", "smallest at"}};
    for (const auto& s : asked.shares) {
        const bool decides = s.largest > 0;
        json["rules"].push_back({{"rule", s.name}, {share, s.share}});
        if (decides) {
            json["rules"].back()["smallest"] = s.smallest;
            json["rules"].back()["largest"] = s.largest;
            json["rules"].back()["smallest_at"] = coordinates_of<D>(s.smallest_at);
        }
        rows.push_back({s.name, decides ? percent(s.share) : "nowhere", decides ? sensible(s.smallest) : "-",
                        decides ? sensible(s.largest) : "-", decides ? told_point(s.smallest_at) : "-"});
    }
    std::string answers;
    for (const auto& text : places) {
        const Vec<D> p = read_place<D>(text);
        const auto answer = asked.field.query(p);
        const std::string rule = name_of_rule(study.sizes, answer.rule);
        const bool inside = in_part(asked.part, p);
        json["at"].push_back(
            {{"position", coordinates_of<D>(p)}, {"size", answer.size}, {"rule", rule}, {"inside", inside}});
        answers += fmt::format("at {}: {} {}, because of {}{}\n", told_point(p), sensible(answer.size), length, rule,
                               inside ? "" : " (outside the part)");
    }
    if (given.count("output")) {
        const std::filesystem::path directory = given["output"].as<std::string>();
        const SizePictures pictures = asked.draw();
        make_directory(directory);
        write_picture(directory / "sizes", pictures.sizes);
        write_picture(directory / "rules", pictures.rules);
    }
    if (given.count("json")) {
        fmt::print("{}\n", json.dump(2));
        return 0;
    }
    fmt::print("{}, sizes in {}\n{}{}about {} elements\n", strong(study.title), length, table(rows), answers,
               grouped(std::llround(asked.elements)));
    if (given.count("output")) fmt::print("written   {}\n", given["output"].as<std::string>());
    return 0;
}

}  // namespace

int sizes(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift sizes",
                             "Shows the element size that a study's rules ask for, which rule decides where, and how "
                             "many elements that makes. With -o also as pictures: sizes.png and rules.png (and .svg).");
    options.add_options()("help", "print this")("o,output", "directory for the pictures",
                                                cxxopts::value<std::string>())(
        "at", "the size at a place and the rule behind it, as in 12.5,30 or 12.5,30,8; may be repeated",
        cxxopts::value<std::vector<std::string>>())(
        "finer", "divide every size by this", cxxopts::value<double>()->default_value("1"))("json", "print as JSON")(
        "study", "study file", cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY [--at X,Y[,Z]] [-o DIRECTORY]");
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
    const StudyAndPart opened = load(given["study"].as<std::string>());
    const Study& study = opened.study;
    const std::string length = study.units.label(dimension::length);
    if (opened.solid) {
        const SolidPart& part = *opened.solid;
        const auto field = sizing_of(part, study.sizes, study.path).scaled(1 / finer).field;
        const SolidMesh samples = size_samples(part, field, study.sizes.most_elements);
        return tell_sizes<3>({opened, part, field, rule_shares(samples, field, study.sizes),
                              estimate_elements(part, field, enough_elements),
                              [&] { return draw_sizes(samples, field, study.sizes, study.title, length); }},
                             places, given);
    }
    const Sizing sizing = sizing_of(opened.part, study.sizes, study.path).scaled(1 / finer);
    const SizeField& field = sizing.field;
    return tell_sizes<2>({opened, opened.part, field, rule_shares(opened.part, field, study.sizes),
                          estimate_elements(opened.part, sizing, enough_elements),
                          [&] { return draw_sizes(opened.part, field, study.sizes, study.title, length); }},
                         places, given);
}

}  // namespace dotsift::app
