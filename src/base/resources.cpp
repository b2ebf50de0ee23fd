#include "base/resources.hpp"

#include <dlfcn.h>
#include <fmt/format.h>
#include <sys/auxv.h>

#include <initializer_list>

#include "base/errors.hpp"

namespace dotsift {

namespace {

std::filesystem::path first_that_exists(std::initializer_list<std::filesystem::path> candidates,
                                        const std::string& name) {
    std::error_code code;
    for (const auto& c : candidates)
        if (std::filesystem::exists(c, code)) return c;
    throw FileError("a file that belongs to the program is missing: " + name, {}, "reinstall the program");
}

std::filesystem::path program_directory() {
    std::error_code code;
    auto program = std::filesystem::read_symlink("/proc/self/exe", code);
    if (code) {  // as where a system inside another one has no /proc
        // The kernel hands the address over as a number: NOLINTNEXTLINE(performance-no-int-to-ptr)
        const auto* called = reinterpret_cast<const char*>(::getauxval(AT_EXECFN));
        if (called) program = std::filesystem::canonical(called, code);
    }
    return program.parent_path();
}

}  // namespace

std::filesystem::path find_resource(const std::string& name) {
    return first_that_exists(
        {program_directory() / "../share/dotsift" / name, std::filesystem::path(DOTSIFT_SHARE) / name}, name);
}

std::filesystem::path find_module(const std::string& name) {
    return first_that_exists({program_directory() / name, program_directory() / "../lib/dotsift" / name,
                              std::filesystem::path(DOTSIFT_MODULES) / name},
                             name);
}

void* module_symbol(const std::string& module, const char* symbol) {
    const auto path = find_module(module);
    void* handle = ::dlopen(path.c_str(), RTLD_LAZY | RTLD_LOCAL);  // the same handle for the same file
    if (!handle)
        throw FileError(fmt::format("cannot load the module {}: {}", module, ::dlerror()), {}, "reinstall the program");
    void* found = ::dlsym(handle, symbol);
    if (!found)
        throw FileError(fmt::format("the module {} is of another version", module), {}, "reinstall the program");
    return found;
}

}  // namespace dotsift
