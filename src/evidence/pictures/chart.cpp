#include "evidence/pictures/chart.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <csignal>
#include <thread>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "base/resources.hpp"
#include "evidence/drawing/not_drawn.hpp"

namespace dotsift {

namespace {

/// A text as gnuplot reads it: letters, digits and spaces as they are, everything else by its number, so that no text
/// is ever taken for a part of the language. A number has four digits of which the first is 0: of any other form
/// gnuplot may take digits of the text behind it. Control characters vanish.
std::string quoted(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte < 32 || byte == 127) continue;
        if (std::isalnum(byte) || byte == ' ' || byte >= 128)
            out += c;
        else
            out += fmt::format("\\{:04o}", byte);
    }
    return out + "\"";
}

// gnuplot takes larger numbers for undefined, and smaller ranges for empty.
constexpr double most_drawn = 1e290, least_drawn = 1e-290;
// Values that differ by less than this share of them are drawn as one.
constexpr double one_value = 1e-9;

bool drawable(double v) {
    return std::fabs(v) <= most_drawn;
}

std::string number(double v) {
    return drawable(v) ? fmt::format("{:.17g}", v) : "NaN";
}

/// What of an axis is used.
struct Seen {
    double low = INFINITY, high = -INFINITY;
    void see(double v) {
        if (!drawable(v)) return;
        low = std::min(low, v);
        high = std::max(high, v);
    }
    [[nodiscard]] bool any() const { return low <= high; }
    /// The length of the axis; where all values are the same, a share of the value, and where they are zero, 1.
    [[nodiscard]] double span(double share) const {
        if (high - low > std::max(least_drawn, one_value * std::max(std::fabs(high), std::fabs(low))))
            return high - low;
        return std::fabs(high) * share > least_drawn ? std::fabs(high) * share : 1;
    }
};

std::string hex(const Colour& c) {
    const auto byte = [](double v) { return static_cast<int>(std::lround(v * 255)); };
    return fmt::format("#{:02x}{:02x}{:02x}", byte(c.r), byte(c.g), byte(c.b));
}

/// Runs gnuplot with a script on its standard input and returns what it writes.
std::string run_gnuplot(const std::string& script) {
    int in[2], out[2];
    if (::pipe2(in, O_CLOEXEC) != 0) throw FileError("no pipe for gnuplot");
    if (::pipe2(out, O_CLOEXEC) != 0) throw FileError("no pipe for gnuplot");
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, in[0], 0);
    posix_spawn_file_actions_adddup2(&actions, out[1], 1);
    posix_spawn_file_actions_addopen(&actions, 2, "/dev/null", O_WRONLY, 0);
    std::vector<std::string> environment;
    for (char** e = environ; *e; ++e)
        if (std::string_view(*e).rfind("FONTCONFIG_FILE=", 0) != 0 && std::string_view(*e).rfind("GNUTERM=", 0) != 0)
            environment.emplace_back(*e);
    environment.push_back("FONTCONFIG_FILE=" + find_resource("fonts/fonts.conf").string());
    environment.emplace_back("LC_ALL=C.UTF-8");
    std::vector<char*> envp;
    envp.reserve(environment.size() + 1);
    for (auto& e : environment) envp.push_back(e.data());
    envp.push_back(nullptr);
    std::string program = "gnuplot", flag = "-d";  // -d: no settings of the user's
    char* argv[] = {program.data(), flag.data(), nullptr};
    pid_t child = 0;
    const int failed = ::posix_spawnp(&child, "gnuplot", &actions, nullptr, argv, envp.data());
    posix_spawn_file_actions_destroy(&actions);
    ::close(in[0]);
    ::close(out[1]);
    if (failed) {
        ::close(in[1]);
        ::close(out[0]);
        throw FileError("gnuplot cannot be started, so there are no charts", {}, "install the package gnuplot-nox");
    }
    const auto feed = [&] {
        sigset_t pipe_signal;
        sigemptyset(&pipe_signal);
        sigaddset(&pipe_signal, SIGPIPE);
        pthread_sigmask(SIG_BLOCK, &pipe_signal, nullptr);  // a child that died early must not end this program
        for (std::size_t done = 0; done < script.size();) {
            const ssize_t n = ::write(in[1], script.data() + done, script.size() - done);
            if (n <= 0) break;
            done += static_cast<std::size_t>(n);
        }
        ::close(in[1]);
    };
    std::thread writer;
    try {
        writer = std::thread(feed);
    } catch (const std::system_error&) {
        ::close(in[1]);
        ::close(out[0]);
        ::waitpid(child, nullptr, 0);
        throw;
    }
    std::string result;
    char buffer[1 << 16];
    for (ssize_t n = 0; (n = ::read(out[0], buffer, sizeof buffer)) > 0;)
        result.append(buffer, static_cast<std::size_t>(n));
    writer.join();
    ::close(out[0]);
    int status = 0;
    ::waitpid(child, &status, 0);
    if (status != 0 || result.empty())
        throw FileError("gnuplot failed to draw a chart", {},
                        "try gnuplot by itself: it needs its terminals svg and pngcairo (package gnuplot-nox)");
    return result;
}

std::string preamble(const std::string& title, const std::string& subtitle, const std::string& x_label,
                     const std::string& y_label) {
    std::string s = "set encoding utf8\n";
    s += fmt::format("set label 10 {} at screen 0.032,0.945 left font 'Inter Semi Bold,18' tc rgb '{}' noenhanced\n",
                     quoted(title), hex(ink));
    s +=
        fmt::format("set label 9 {} at screen 0.032,0.905 left tc rgb '{}' noenhanced\n", quoted(subtitle), hex(faint));
    s += fmt::format("set xlabel {} noenhanced\nset ylabel {} noenhanced offset -0.8,0\n", quoted(x_label),
                     quoted(y_label));
    s += "set lmargin at screen 0.115\nset rmargin at screen 0.965\nset tmargin at screen 0.86\nset bmargin at screen "
         "0.14\n";
    s += "set border 3 lw 1.2 lc rgb '#5a6068'\nset tics nomirror out scale 0.7 tc rgb '#22262b'\nset grid lc rgb "
         "'#d9dde1' lw 1\n";
    s += "set key left Left reverse samplen 2 spacing 1.3 noenhanced\n";
    return s;
}

std::string blocks(const std::vector<Curve2>& curves) {
    std::string s;
    for (std::size_t k = 0; k < curves.size(); ++k) {
        s += fmt::format("$curve{} << EOD\n", k);
        for (const auto& p : curves[k].points) s += fmt::format("{} {}\n", number(p[0]), number(p[1]));
        s += "EOD\n";
    }
    return s;
}

/// Labels at 1, 2 and 5 times the powers of ten; over many decades at the powers alone.
std::string log_tics(char axis, double low, double high) {
    const bool wide = high > 3000 * low;
    std::string s;
    for (int k = static_cast<int>(std::floor(std::log10(low))); k <= static_cast<int>(std::ceil(std::log10(high)));
         ++k) {
        for (const double m : {1.0, 2.0, 5.0}) {
            const double v = m * std::pow(10, k);
            if (v < low || v > high || (wide && m != 1)) continue;
            const std::string label = v >= 1 && v < 1e7 ? grouped(std::llround(v)) : fmt::format("{:g}", v);
            s += fmt::format("{}{} {}", s.empty() ? "" : ", ", quoted(label), number(v));
        }
    }
    return fmt::format("set {}tics ({})\n", axis, s);
}

/// Point types with a hollow look: circle, triangle, square, diamond.
int point_type(std::size_t k) {
    constexpr std::array<int, 4> types{6, 8, 4, 12};
    return types[k % types.size()];
}

/// The band as data, as far beyond the values as does not hide them.
std::string band_block(const std::vector<std::array<double, 3>>& band, Seen& y) {
    const double span = y.span(1), low = y.low - span, high = y.high + span;
    std::string s = "$band << EOD\n";
    for (const auto& [at, from, to] : band) {
        const double a = std::clamp(from, low, high), b = std::clamp(to, low, high);
        y.see(a);
        y.see(b);
        s += fmt::format("{} {} {}\n", number(at), number(a), number(b));
    }
    return s + "EOD\n";
}

std::string plot_curves(const std::vector<Curve2>& curves, const std::vector<std::string>& labels) {
    std::string s;
    for (std::size_t k = 0; k < curves.size(); ++k) {
        const std::string colour = hex(category(curves[k].colour));
        s += fmt::format("{}$curve{} using 1:2 with linespoints lw 2.2 ps 1.7 pt {} lc rgb '{}' title {}",
                         k ? ", " : "", k, point_type(k), colour, quoted(labels[k]));
    }
    return s;
}

constexpr int chart_svg_width = 880, chart_svg_height = 550;

PictureFiles drawn(const std::string& script) {
    // The vector form is set smaller with the same letters: in a report it stands beside another one.
    const std::string both =
        run_gnuplot(fmt::format("set terminal svg size {},{} font 'Inter,14' enhanced background '#ffffff'\n{}\nset "
                                "terminal pngcairo size {},{} font 'Inter,12' enhanced\nreplot\n",
                                chart_svg_width, chart_svg_height, script, picture_width, picture_height));
    constexpr std::string_view signature = "\x89PNG";
    const std::size_t cut = both.find(signature);
    if (cut == std::string::npos) throw FileError("gnuplot drew a chart without its PNG");
    std::string svg = both.substr(0, cut);
    // The viewer may not have the font, and gnuplot takes one name only.
    for (const std::string family : {"font-family=\"Inter\"", "font-family=\"Inter Semi\""})
        for (std::size_t at = 0; (at = svg.find(family, at)) != std::string::npos;)
            svg.replace(at, family.size(), "font-family=\"Inter, Helvetica, Arial, sans-serif\"");
    return {both.substr(cut), svg};
}

/// A chart that cannot be drawn costs nothing but itself.
PictureFiles in_both_formats(const std::string& title, const std::string& script) {
    try {
        return drawn(script);
    } catch (const Error& e) {
        return not_drawn(title, e.remedy().empty() ? e.what() : fmt::format("{}: {}", e.what(), e.remedy()));
    } catch (const std::exception& e) {
        return not_drawn(title, e.what());
    }
}

}  // namespace

double fitted_slope(const std::vector<Vec2>& points) {
    const std::size_t first = points.size() > 3 ? points.size() / 2 - (points.size() % 2 == 0 ? 1 : 0) : 0;
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    for (std::size_t i = first; i < points.size(); ++i) {
        if (!(points[i][0] > 0) || !(points[i][1] > 0)) continue;
        const double x = std::log(points[i][0]), y = std::log(points[i][1]);
        n += 1;
        sx += x;
        sy += y;
        sxx += x * x;
        sxy += x * y;
    }
    const double det = n * sxx - sx * sx;
    return n >= 2 && det > 0 ? (n * sxy - sx * sy) / det : NAN;
}

PictureFiles draw_chart(const ConvergenceChart& c) {
    std::string s = preamble(c.title, c.subtitle, c.x_label, c.y_label) + blocks(c.curves);
    Seen x, y;
    x.see(0);
    for (const auto& curve : c.curves) {
        for (const auto& p : curve.points) {
            x.see(p[0]);
            y.see(p[1]);
        }
    }
    for (const auto& line : {c.value, c.extrapolated, c.reference})
        if (line) y.see(*line);
    if (!y.any()) y.see(0);
    const double span = y.span(0.01);
    // The band may be far wider than the values; show it, but not at their cost.
    const bool banded = c.value && c.half_width && drawable(*c.value) && drawable(*c.half_width);
    const double band = banded ? std::min(*c.half_width, 1.5 * span) : 0;
    if (banded) {
        y.see(*c.value - band);
        y.see(*c.value + band);
    }
    std::vector<double> limits;
    for (const double limit : c.limits)
        if (limit >= y.low - 1.5 * span && limit <= y.high + 1.5 * span) limits.push_back(limit);
    for (const double limit : limits) y.see(limit);
    // The legend goes where the curves are not: they come from the right and end high or low at the left.
    const bool rises = !c.curves.empty() && !c.curves.front().points.empty() &&
                       c.curves.front().points.back()[1] >= c.curves.front().points.front()[1];
    const double margin = 0.08 * std::max(y.high - y.low, span), low = y.low - margin, high = y.high + 1.8 * margin;
    s += fmt::format("set xrange [0:{}]\nset yrange [{}:{}]\nset format y '%.6g'\nset key {} left\n",
                     number(1.06 * x.span(1)), number(low), number(high), rises ? "bottom" : "top");
    if (banded)
        s += fmt::format(
            "set object 1 rectangle from graph 0, first {} to graph 1, first {} fc rgb '#dbe5ec' fs solid noborder "
            "behind\n",
            number(std::max(*c.value - *c.half_width, low)), number(std::min(*c.value + *c.half_width, high)));
    std::vector<std::string> labels;
    for (const auto& curve : c.curves) labels.push_back(curve.name);
    s += "plot " + plot_curves(c.curves, labels);
    if (c.extrapolated)
        s += fmt::format(", {} with lines lw 1.6 dt 2 lc rgb '{}' title {}", number(*c.extrapolated), hex(ink),
                         quoted(c.extrapolated_label));
    if (banded)
        s += fmt::format(", keyentry with boxes fs solid 1 noborder fc rgb '#c9d6e0' title {}", quoted(c.band_label));
    if (c.reference)
        s += fmt::format(", {} with lines lw 1.6 dt 3 lc rgb '{}' title 'reference value'", number(*c.reference),
                         hex(category(3)));
    for (std::size_t k = 0; k < limits.size(); ++k)
        s += fmt::format(", {} with lines lw 2 dt 4 lc rgb '{}' {}", number(limits[k]), hex(category(1)),
                         k == 0 ? "title 'limit'" : "notitle");
    return in_both_formats(c.title, s + "\n");
}

PictureFiles draw_chart(const LineChart& c) {
    std::string s = preamble(c.title, c.subtitle, c.x_label, c.y_label) + blocks(c.curves);
    Seen x, y;
    for (const auto& curve : c.curves)
        for (const auto& p : curve.points) {
            x.see(p[0]);
            y.see(p[1]);
        }
    for (auto* seen : {&x, &y})
        if (!seen->any()) seen->see(0);
    if (!c.band.empty()) s += band_block(c.band, y);
    for (std::size_t k = 0; k < c.marks.size(); ++k) {
        const std::string at = number(c.marks[k].first);
        s += fmt::format("set arrow {} from first {},graph 0 to first {},graph 1 nohead lw 1 dt 3 lc rgb '{}' back\n",
                         100 + k, at, at, hex(faint));
        if (!c.marks[k].second.empty())
            s += fmt::format("set label {} {} at first {},graph 1.025 center tc rgb '{}' noenhanced\n", 100 + k,
                             quoted(c.marks[k].second), at, hex(faint));
    }
    const double margin = 0.06 * y.span(y.high > y.low ? 1 : 1.7);
    // The legend stands above the curves, beside the title, where it covers none.
    s +=
        fmt::format("set yrange [{}:{}]\nset format y '%.6g'\nset key {}\nset offsets 0, 0, {}, 0\n",
                    number(y.low - margin), number(y.high + margin),
                    c.points ? "outside right top" : "at screen 0.965,0.965 top right horizontal maxrows 2 samplen 1.5",
                    number(2 * margin));
    if (c.points) s += c.curves.size() == 1 ? "unset key\n" : "set rmargin at screen 0.8\n";
    if (!c.points) s += "set autoscale xfix\n";
    s += "plot ";
    if (!c.band.empty())
        s += fmt::format("$band using 1:2:3 with filledcurves fs solid 1 noborder fc rgb '#c9d6e0' title {}",
                         quoted(c.band_label));
    for (std::size_t k = 0; k < c.curves.size(); ++k) {
        const std::string look = c.points                              ? "linespoints lw 1.8 pt 7 ps 1.1"
                                 : c.curves[k].look == CurveLook::main ? "lines lw 3"
                                                                       : "lines lw 1.6";
        s += fmt::format("{}$curve{} using 1:2 with {} lc rgb '{}' title {}", k > 0 || !c.band.empty() ? ", " : "", k,
                         look, hex(category(c.curves[k].colour)), quoted(c.curves[k].name));
    }
    return in_both_formats(c.title, s + "\n");
}

PictureFiles draw_chart(const RateChart& c) {
    std::string s = preamble(c.title, c.subtitle, c.x_label, c.y_label) + blocks(c.curves);
    Seen x, y;
    for (const auto& curve : c.curves)
        for (const auto& p : curve.points) {
            if (std::min(p[0], p[1]) < least_drawn || !drawable(p[0]) || !drawable(p[1])) continue;
            x.see(p[0]);
            y.see(p[1]);
        }
    const bool none = !y.any();
    if (none) {
        for (auto* seen : {&x, &y}) seen->see(1);
        s += fmt::format("set label 7 'no value is above zero' at graph 0.5,0.5 center tc rgb '{}'\n", hex(faint));
    }
    const double left = x.low, right = x.high, low = y.low, high = y.high;
    // The legend goes where the curves are not.
    const bool rises = !c.curves.empty() && c.curves.front().points.size() > 1 &&
                       (c.curves.front().points.front()[0] < c.curves.front().points.back()[0]) ==
                           (c.curves.front().points.front()[1] < c.curves.front().points.back()[1]);
    s += fmt::format("set logscale xy\nset key top {}\n", rises ? "left" : "right");
    s += fmt::format("set xrange [{}:{}]\nset yrange [{}:{}]\n", number(left / 1.5), number(right * 1.8),
                     number(low / 2), number(high * 2.5));
    s += log_tics('x', left / 1.5, right * 1.8) + log_tics('y', low / 2, high * 2.5);
    const bool sloped = c.slope && !none;
    if (sloped) {
        // A triangle whose hypotenuse has the theoretical slope, in the lower corner that the curves leave free.
        const bool up = *c.slope > 0;
        const double x0 = left * std::pow(right / left, up ? 0.95 : 0.05),
                     x1 = left * std::pow(right / left, up ? 0.78 : 0.22), ratio = std::pow(x1 / x0, *c.slope);
        const double y1 = low * std::pow(high / low, 0.04), y0 = y1 / ratio;
        s += fmt::format("$slope << EOD\n{0} {1}\n{2} {3}\n{0} {3}\n{0} {1}\nEOD\n", number(x0), number(y0), number(x1),
                         number(y1));
        s += fmt::format("set label 8 {} at {},{} {} offset {},0.2 tc rgb '{}'\n", quoted(c.slope_label), number(x1),
                         number(y1), up ? "right" : "left", up ? -1 : 1, hex(faint));
    }
    std::vector<std::string> labels;
    for (const auto& curve : c.curves) {
        const double slope = fitted_slope(curve.points);
        labels.push_back(std::isfinite(slope) ? fmt::format("{}  (slope {:.2f})", curve.name, slope) : curve.name);
    }
    s += "plot " + plot_curves(c.curves, labels);
    if (sloped) s += fmt::format(", $slope using 1:2 with lines lw 1.6 lc rgb '{}' notitle", hex(faint));
    return in_both_formats(c.title, s + "\n");
}

}  // namespace dotsift
