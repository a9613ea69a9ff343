#include "exact.h"
#include "fast.h"
#include "exponential.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>

#include "path.h"

namespace ensayo {

namespace {

void one_by_one(const double* x, std::size_t count, double* out) {
  for (std::size_t j = 0; j < count; ++j) out[j] = std::exp(x[j]);
}

#ifdef ENSAYO_WIDE_PATHS

// e^x = 2^(k/128) e^r with |r| <= log(2)/256 (Tang 1989, Table-driven implementation of the exponential function, ACM TOMS 15),
// with the polynomial and the order of operations that the system's own library has (S. Nagy 2018, Optimized routines: exp),
// so that the bits are the same. What 2^(k/128) is above its double, as a share of it:
constexpr double above[128] = {
    0, 0x1.b3b4f1a88bf6ep-54, -0x1.160139cd8dc5dp-56, -0x1.05e7a108766d1p-54, 0x1.cd2523567f613p-55,
    -0x1.bce8023f98efap-55, 0x1.0f74e61e6c861p-57, 0x1.0a3e45b33d399p-54, 0x1.79aa65d837b6dp-54,
    0x1.eb51a92fdeffcp-55, 0x1.ebe3d702f9cd1p-60, -0x1.a033489906e0bp-57, -0x1.556522a2fbd0ep-54,
    -0x1.080ef8c4eea55p-58, -0x1.1c923b9d5f416p-54, 0x1.0d3e3e95c55afp-55, -0x1.01b15eaa59348p-55,
    -0x1.f1ff055de323dp-55, 0x1.b898c3f1353bfp-55, -0x1.6d99c7611eb26p-54, 0x1.aecf73e3a2f6p-54,
    -0x1.fe782cb86389dp-55, 0x1.a6f4144a6c38dp-55, 0x1.07a05b0e4047dp-55, 0x1.68efde3a8a894p-54,
    0x1.75e18f274487dp-55, 0x1.0472b981fe7f2p-55, -0x1.6b87b3f71085ep-54, 0x1.2f7e16d09ab31p-55,
    -0x1.d219b1a6fbffap-60, 0x1.b3782720c0ab4p-55, 0x1.e149289cecb8fp-57, 0x1.34d754db0abb6p-55,
    0x1.64201e2ac744cp-55, 0x1.fdd395dd3f84ap-55, -0x1.6a3803b8e5b04p-55, -0x1.24aedcc4b5068p-54,
    -0x1.907f81b512d8ep-54, -0x1.1d1e83e9436d2p-56, -0x1.91919b3ce1b15p-54, 0x1.59f48a72a4c6dp-55,
    -0x1.312607a28698ap-54, -0x1.8a78f4817895bp-58, -0x1.c2c9b67499a1bp-56, 0x1.363ed60c2ac11p-59,
    0x1.666093b0664efp-54, 0x1.ecce1daa10379p-57, 0x1.3ff8e3f0f123p-54, 0x1.690cebb7aafbp-56, 0x1.31dbdeb54e077p-54,
    -0x1.f94340071a38ep-55, -0x1.7deccdc93a349p-55, -0x1.8dec6bd0f385fp-56, -0x1.61246ec7b5cf6p-55,
    0x1.3350518fdd78ep-54, 0x1.b98b72f8a9b05p-56, 0x1.063e1e21c5409p-54, 0x1.4c7855019c6eap-60, 0x1.432e62b64c035p-54,
    -0x1.ce44a6199769fp-55, -0x1.c33c53bef4da8p-55, -0x1.45378892be9aep-55, -0x1.3cedd78565858p-54,
    0x1.710aa807e1964p-58, -0x1.3b3efbf5e2228p-54, -0x1.a12ad8734b982p-57, -0x1.367efb86da9eep-57,
    -0x1.0dc3d54e08851p-55, -0x1.81f647e5a3ecfp-56, -0x1.6ee4ac08b7dbp-55, -0x1.619321e55e68ap-55,
    0x1.09ccb5e09d4d3p-54, -0x1.b32dcb94da51dp-56, 0x1.4ecfd5467c06bp-54, 0x1.5ebe1abd66c55p-57,
    -0x1.8a1c52fb3cf42p-55, -0x1.369b6f13b3734p-54, -0x1.05e843a19ff1ep-55, -0x1.4d450d872576ep-54,
    0x1.0ad675b0e8ap-54, 0x1.db72fc1f0eab4p-55, -0x1.5b6609cc5e7ffp-57, 0x1.bf68359f35f44p-56, -0x1.3091fa71e3d83p-54,
    -0x1.da9b88b6c1e29p-58, -0x1.c23f97c90b959p-57, -0x1.2434322f4f9aap-54, -0x1.5ca6cd7668e4bp-55,
    0x1.1affc2b91ce27p-56, 0x1.dd235e10a73bbp-57, -0x1.7c50422622263p-55, 0x1.b1c86e3e231d5p-55,
    -0x1.1bbd1d3bcbb15p-54, 0x1.0cc319cee31d2p-54, 0x1.469846e735ab3p-55, -0x1.2dfcd978e9db4p-55,
    0x1.c1a7792cb3387p-55, -0x1.07b8f4ad1d9fap-54, -0x1.5c3d956dcaebap-58, -0x1.0a40e3da6f64p-54,
    -0x1.8d6f438ad9334p-57, -0x1.1eee26b588a35p-54, 0x1.4ffd70a5fddcdp-56, -0x1.1bdfbfa9298acp-54,
    0x1.36eae30af0cb3p-56, 0x1.ee3325c9ffd94p-55, 0x1.4e08fd10959acp-55, 0x1.3cdaf384e1a67p-57, 0x1.76b2c6c921968p-57,
    -0x1.08a1883ccb5d2p-55, -0x1.fad5d3ffffa6fp-55, -0x1.00dae3875a949p-54, 0x1.4a385a63d07a7p-56,
    -0x1.2919e2040220fp-55, 0x1.e5a50d5c192acp-55, 0x1.43a59ac016b4bp-55, -0x1.2d52107b43e1fp-55,
    -0x1.92ab93b470dc9p-55, 0x1.4b604603a88d3p-56, 0x1.3c5ec519d7271p-55, -0x1.ff7128fd391fp-55,
    -0x1.dae98e223747dp-55, 0x1.ec3bc41aa2008p-55, 0x1.42b94c3a9eb32p-55, 0x1.a64a931d185eep-55,
    -0x1.e37bae43be3edp-55, 0x1.7893b4d91cd9dp-56, 0x1.305c14160cc89p-58};
// the double itself, from whose bits k 2^45 is taken off:
constexpr std::uint64_t base[128] = {
    0x3ff0000000000000ULL, 0x3feff63da9fb3335ULL, 0x3fefec9a3e778061ULL, 0x3fefe315e86e7f85ULL, 0x3fefd9b0d3158574ULL,
    0x3fefd06b29ddf6deULL, 0x3fefc74518759bc8ULL, 0x3fefbe3ecac6f383ULL, 0x3fefb5586cf9890fULL, 0x3fefac922b7247f7ULL,
    0x3fefa3ec32d3d1a2ULL, 0x3fef9b66affed31bULL, 0x3fef9301d0125b51ULL, 0x3fef8abdc06c31ccULL, 0x3fef829aaea92de0ULL,
    0x3fef7a98c8a58e51ULL, 0x3fef72b83c7d517bULL, 0x3fef6af9388c8deaULL, 0x3fef635beb6fcb75ULL, 0x3fef5be084045cd4ULL,
    0x3fef54873168b9aaULL, 0x3fef4d5022fcd91dULL, 0x3fef463b88628cd6ULL, 0x3fef3f49917ddc96ULL, 0x3fef387a6e756238ULL,
    0x3fef31ce4fb2a63fULL, 0x3fef2b4565e27cddULL, 0x3fef24dfe1f56381ULL, 0x3fef1e9df51fdee1ULL, 0x3fef187fd0dad990ULL,
    0x3fef1285a6e4030bULL, 0x3fef0cafa93e2f56ULL, 0x3fef06fe0a31b715ULL, 0x3fef0170fc4cd831ULL, 0x3feefc08b26416ffULL,
    0x3feef6c55f929ff1ULL, 0x3feef1a7373aa9cbULL, 0x3feeecae6d05d866ULL, 0x3feee7db34e59ff7ULL, 0x3feee32dc313a8e5ULL,
    0x3feedea64c123422ULL, 0x3feeda4504ac801cULL, 0x3feed60a21f72e2aULL, 0x3feed1f5d950a897ULL, 0x3feece086061892dULL,
    0x3feeca41ed1d0057ULL, 0x3feec6a2b5c13cd0ULL, 0x3feec32af0d7d3deULL, 0x3feebfdad5362a27ULL, 0x3feebcb299fddd0dULL,
    0x3feeb9b2769d2ca7ULL, 0x3feeb6daa2cf6642ULL, 0x3feeb42b569d4f82ULL, 0x3feeb1a4ca5d920fULL, 0x3feeaf4736b527daULL,
    0x3feead12d497c7fdULL, 0x3feeab07dd485429ULL, 0x3feea9268a5946b7ULL, 0x3feea76f15ad2148ULL, 0x3feea5e1b976dc09ULL,
    0x3feea47eb03a5585ULL, 0x3feea34634ccc320ULL, 0x3feea23882552225ULL, 0x3feea155d44ca973ULL, 0x3feea09e667f3bcdULL,
    0x3feea012750bdabfULL, 0x3fee9fb23c651a2fULL, 0x3fee9f7df9519484ULL, 0x3fee9f75e8ec5f74ULL, 0x3fee9f9a48a58174ULL,
    0x3fee9feb564267c9ULL, 0x3feea0694fde5d3fULL, 0x3feea11473eb0187ULL, 0x3feea1ed0130c132ULL, 0x3feea2f336cf4e62ULL,
    0x3feea427543e1a12ULL, 0x3feea589994cce13ULL, 0x3feea71a4623c7adULL, 0x3feea8d99b4492edULL, 0x3feeaac7d98a6699ULL,
    0x3feeace5422aa0dbULL, 0x3feeaf3216b5448cULL, 0x3feeb1ae99157736ULL, 0x3feeb45b0b91ffc6ULL, 0x3feeb737b0cdc5e5ULL,
    0x3feeba44cbc8520fULL, 0x3feebd829fde4e50ULL, 0x3feec0f170ca07baULL, 0x3feec49182a3f090ULL, 0x3feec86319e32323ULL,
    0x3feecc667b5de565ULL, 0x3feed09bec4a2d33ULL, 0x3feed503b23e255dULL, 0x3feed99e1330b358ULL, 0x3feede6b5579fdbfULL,
    0x3feee36bbfd3f37aULL, 0x3feee89f995ad3adULL, 0x3feeee07298db666ULL, 0x3feef3a2b84f15fbULL, 0x3feef9728de5593aULL,
    0x3feeff76f2fb5e47ULL, 0x3fef05b030a1064aULL, 0x3fef0c1e904bc1d2ULL, 0x3fef12c25bd71e09ULL, 0x3fef199bdd85529cULL,
    0x3fef20ab5fffd07aULL, 0x3fef27f12e57d14bULL, 0x3fef2f6d9406e7b5ULL, 0x3fef3720dcef9069ULL, 0x3fef3f0b555dc3faULL,
    0x3fef472d4a07897cULL, 0x3fef4f87080d89f2ULL, 0x3fef5818dcfba487ULL, 0x3fef60e316c98398ULL, 0x3fef69e603db3285ULL,
    0x3fef7321f301b460ULL, 0x3fef7c97337b9b5fULL, 0x3fef864614f5a129ULL, 0x3fef902ee78b3ff6ULL, 0x3fef9a51fbc74c83ULL,
    0x3fefa4afa2a490daULL, 0x3fefaf482d8e67f1ULL, 0x3fefba1bee615a27ULL, 0x3fefc52b376bba97ULL, 0x3fefd0765b6e4540ULL,
    0x3fefdbfdad9cbe14ULL, 0x3fefe7c1819e90d8ULL, 0x3feff3c22b8f71f1ULL};
constexpr double cells = 0x1.71547652b82fep+7;  // 128 / log(2)
constexpr double high = -0x1.62e42fefa0000p-8, low = -0x1.cf79abc9e3b3ap-47;  // -log(2) / 128, in two parts
constexpr double whole = 0x1.8p52;  // added, it leaves a whole number in the last bits
constexpr double second = 0x1.ffffffffffdbdp-2, third = 0x1.555555555543cp-3, fourth = 0x1.55555cf172b91p-5,
                 fifth = 0x1.1111167a4d017p-7;
constexpr double reach = 512;  // beyond, results may leave the range of doubles

ENSAYO_INLINE void fill(const double* __restrict x, std::size_t count, double* __restrict out) {
  for (std::size_t j = 0; j < count; ++j) {
    double k = __builtin_fma(cells, x[j], whole);
    std::uint64_t place, bits;
    std::memcpy(&place, &k, sizeof place);
    k -= whole;
    const double r = __builtin_fma(k, low, __builtin_fma(k, high, x[j])), square = r * r;
    bits = base[place % 128] + (place << 45);
    double scale;
    std::memcpy(&scale, &bits, sizeof scale);
    const double front = __builtin_fma(square, __builtin_fma(r, third, second), above[place % 128] + r);
    out[j] = __builtin_fma(scale, __builtin_fma(square * square, __builtin_fma(r, fifth, fourth), front), scale);
  }
}

__attribute__((target("avx2,fma"))) void fill_avx2(const double* x, std::size_t count, double* out) { fill(x, count, out); }
__attribute__((target("avx512f,avx512dq,fma"))) void fill_avx512(const double* x, std::size_t count, double* out) {
  fill(x, count, out);
}

void abreast(const double* x, std::size_t count, double* out) {
  constexpr std::size_t part = 256;
  double held[part];  // so that `x` and `out` may be the same
  for (std::size_t at = 0; at < count; at += part) {
    const std::size_t size = std::min(part, count - at);
    std::copy(x + at, x + at + size, held);
    bool far = false;
    for (std::size_t j = 0; j < size; ++j) far |= !(std::fabs(held[j]) < reach);
    if (far) one_by_one(held, size, out + at);
    else if (path_in_use() == Path::avx512) fill_avx512(held, size, out + at);
    else fill_avx2(held, size, out + at);
  }
}

// Another library, or another version of it, may round otherwise now and then: then this one's is taken as it is.
bool agrees_with_library() {
  constexpr std::size_t part = 256;
  double x[part], own[part], theirs[part];
  for (std::size_t at = 0; at < 64 * part; at += part) {
    for (std::size_t j = 0; j < part; ++j) x[j] = static_cast<double>(at + j) * 0.0623 - 511;
    fill_avx2(x, part, own);
    one_by_one(x, part, theirs);
    if (!std::equal(own, own + part, theirs)) return false;
  }
  return true;
}

#endif

}  // namespace

void exponentials(const double* x, std::size_t count, double* out) {
#ifdef ENSAYO_WIDE_PATHS
  static const bool quick = has_path(Path::avx2) && __builtin_cpu_supports("fma") && agrees_with_library();
  if (quick && path_in_use() != Path::plain) return abreast(x, count, out);
#endif
  one_by_one(x, count, out);
}

}  // namespace ensayo
