// Do the intervals hold the truth? Families of problems with a closed form, in two halves (see families.hpp).
//     dotsift-battery collect DIRECTORY [PART OF]   runs every series and writes levels-PART.csv (part 1 of 1: all)
//     dotsift-battery judge DIRECTORY chosen|published   prints the table of one half
//     dotsift-battery records DIRECTORY chosen|published   prints what was kept of one half
//     dotsift-battery families                      lists them
//     dotsift-battery study FAMILY ELEMENTS ORDER   prints what is run of one, for dotsift run

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <string>

#include "families.hpp"
#include "judging.hpp"
#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "series/stop_rules.hpp"

namespace {

using namespace dotsift;
using namespace dotsift::bench;

/// The series that a family is run with; which ones turns with its number, so that every kind meets every element.
std::string series_of(const Family& f, const StudyAndPart& both, int order, std::size_t turn) {
    std::string text = fmt::format(
        "[series.doubled]\nkind = \"uniform\"\nratio = 2\nmost_levels = 4\nmost_elements = 20000\n"
        "[series.target]\nkind = \"adaptive\"\nerror_target = {}\nmost_levels = 5\nmost_elements = 20000\n",
        order == 1 ? 0.006 : 0.0003);
    text += turn % 2 == 0
                ? "[series.mild]\nkind = \"uniform\"\nratio = 1.5\nmost_levels = 5\nmost_elements = 20000\n"
                : "[series.small_steps]\nkind = \"uniform\"\nratio = 1.25\nmost_levels = 7\nmost_elements = 20000\n";
    text += turn / 2 % 2 == 0 ? "[series.bulk]\nkind = \"adaptive\"\nstrategy = \"share_of_error\"\nmost_levels = "
                                "5\nmost_elements = 20000\n"
                              : "[series.share]\nkind = \"adaptive\"\nstrategy = \"share_of_elements\"\nmost_levels = "
                                "5\nmost_elements = 20000\n";
    std::string driver;
    for (const auto& q : both.study.quantities)
        if (q.dual && q.take != Take::maximum && q.take != Take::minimum && driver.empty()) driver = q.name;
    if ((turn + turn / 2) % 2 == 0 || driver.empty())
        text +=
            "[series.budget]\nkind = \"adaptive\"\nstrategy = \"budget\"\nbudget_elements = 6000\nmost_levels = 4\n";
    else
        text += fmt::format(
            "[series.goal]\nkind = \"adaptive\"\ndrive = \"{}\"\nerror_target = {}\nmost_levels = 4\nmost_elements = "
            "20000\n",
            driver == "energy" ? "energy" : driver, order == 1 ? 1e-4 : 1e-6);
    if (!f.local.empty())
        text +=
            "[series.local]\nkind = \"local\"\nrules = [\"spot\"]\nratio = 1.7\nmost_levels = 4\nmost_elements = "
            "20000\n";
    return text;
}

constexpr std::array<std::pair<const char*, int>, 4> elements_and_orders{
    {{"triangles", 1}, {"triangles", 2}, {"quadrilaterals", 1}, {"quadrilaterals", 2}}};

/// The family of this number with the elements of that number.
std::string study_of(const Family& f, std::size_t number, std::size_t elements) {
    const auto& [name, order] = elements_and_orders.at(elements);
    std::string body =
        f.text + fmt::format("[mesh]\nelements = \"{}\"\norder = {}\n[size]\nglobal = {}\n", name, order, f.size);
    if (!f.local.empty())
        body +=
            fmt::format("[size.local.spot]\non = \"{}\"\nsize = {}\nwithin = {}\n", f.local, f.size / 2, f.size / 4);
    return body + series_of(f, opened(f.name, body), order, number + elements);
}

void print_study(const std::string& family, const std::string& elements, int order) {
    const auto all = families();
    for (std::size_t k = 0; k < all.size(); ++k)
        for (std::size_t e = 0; e < elements_and_orders.size(); ++e)
            if (all[k].name == family && elements == elements_and_orders[e].first &&
                order == elements_and_orders[e].second)
                fmt::print("{}", study_of(all[k], k, e));
}

void collect(const std::filesystem::path& directory, std::size_t part, std::size_t of) {
    const auto all = families();
    std::filesystem::create_directories(directory);
    for (std::size_t k = 0; k < all.size(); ++k)
        (void)truths(all[k],
                     opened(all[k].name, all[k].text + "[size]\nglobal = 0.5\n"));  // all are read before one is run
    std::ofstream table(directory / fmt::format("levels-{}.csv", part));
    table << record_header() << "\n";
    for (std::size_t k = 0; k < all.size(); ++k) {
        if (k % of + 1 != part) continue;
        const Family& f = all[k];
        for (std::size_t which = 0; which < elements_and_orders.size(); ++which) {
            const auto& [elements, order] = elements_and_orders[which];
            const auto both = opened(f.name, study_of(f, k, which));
            const auto truth = truths(f, both);
            try {
                StudyObserver silent;
                const auto result = run_study(both.study, both.part, silent);
                for (const auto& r : records_of(f.name, elements, order, both, result, truth))
                    table << to_csv(r) << "\n";
            } catch (const std::exception& e) {
                fmt::print(stderr, "{} {} {}: {}\n", f.name, elements, order, e.what());
            }
            table.flush();
        }
        fmt::print(stderr, "{}/{} {}\n", k + 1, all.size(), f.name);
    }
}

}  // namespace

int main(int argc, char** argv) {
    const std::string what = argc > 1 ? argv[1] : "";
    try {
        if (what == "families") {
            for (const auto& f : families())
                fmt::print("{:10} {}\n", chosen_half(f.name) ? "chosen" : "published", f.name);
            return 0;
        }
        if (what == "collect" && argc > 2) {
            collect(argv[2], argc > 4 ? std::stoul(argv[3]) : 1, argc > 4 ? std::stoul(argv[4]) : 1);
            return 0;
        }
        if (what == "study" && argc > 4) {
            print_study(argv[2], argv[3], std::stoi(argv[4]));
            return 0;
        }
        if (what == "records" && argc > 3) {
            print_records(argv[2], std::string(argv[3]) == "chosen");
            return 0;
        }
        if (what == "judge" && argc > 3) {
            judge(argv[2], std::string(argv[3]) == "chosen");
            return 0;
        }
    } catch (const std::exception& e) {
        fmt::print(stderr, "{}\n", e.what());
        return 1;
    }
    fmt::print(
        stderr,
        "usage: dotsift-battery families | collect DIRECTORY [PART OF] | judge|records DIRECTORY chosen|published\n");
    return 2;
}
