import type { Chip } from '../../src/core/bundle/chipClass'

/** A start-up text as boards of this class print it, and what is the matter according to whoever built the board. */
export interface StartText {
  chip: Chip
  matter: string
  /** Words that have to be in what is said to be wrong, or in how far it came. */
  said: RegExp
  /** What to do first names this. */
  first?: RegExp
  fine?: true
  text: string
}

// What ROM and second loader of each class print, after their makers' documentation. Line ends are CR LF on the wire.
const ROM_32 = (rst: string, boot = '0x13 (SPI_FAST_FLASH_BOOT)') => `ets Jul 29 2019 12:21:46

rst:${rst},boot:${boot}
configsip: 0, SPIWP:0xee
clk_drv:0x00,q_drv:0x00,d_drv:0x00,cs0_drv:0x00,hd_drv:0x00,wp_drv:0x00
mode:DIO, clock div:2
load:0x3fff0030,len:4892
load:0x40078000,len:14896
load:0x40080400,len:4
entry 0x400805ac
`
const ROM_C3 = (rst: string, boot = '0xc (SPI_FAST_FLASH_BOOT)') => `ESP-ROM:esp32c3-api1-20210207
Build:Feb  7 2021
rst:${rst},boot:${boot}
SPIWP:0xee
mode:DIO, clock div:1
load:0x3fcd5820,len:0x171c
load:0x403cc710,len:0x974
entry 0x403cc710
`
const ROM_S3 = (rst: string, boot = '0x8 (SPI_FAST_FLASH_BOOT)') => `ESP-ROM:esp32s3-20210327
Build:Mar 27 2021
rst:${rst},boot:${boot}
SPIWP:0xee
mode:DIO, clock div:1
load:0x3fce3818,len:0x1574
entry 0x403c98d0
`
const ROM_C6 = (rst: string, boot = '0xc (SPI_FAST_FLASH_BOOT)') => `ESP-ROM:esp32c6-20220919
Build:Sep 19 2022
rst:${rst},boot:${boot}
SPIWP:0xee
mode:DIO, clock div:2
load:0x4086c410,len:0xd50
entry 0x4086c410
`
const ROM_8266 = (cause: number, mode = '3,6') => `
 ets Jan  8 2013,rst cause:${cause}, boot mode:(${mode})

load 0x40100000, len 1856, room 16 
tail 0
chksum 0x63
load 0x3ffe8000, len 776, room 8 
tail 0
chksum 0x02
csum 0x02
`
const BANNER = (chip: string, version = '1.24.1') =>
  `MicroPython v${version} on 2024-11-29; a module of this class with ${chip}\nType "help()" for more information.\n>>> `
const TRACE = (last: string) =>
  `Traceback (most recent call last):\n  File "main.py", line 3, in <module>\n  File "vn/start.py", line 41, in __init__\n${last}\n`

export const START_TEXTS: readonly StartText[] = [
  {
    chip: '32-class',
    matter: 'power on, interpreter alone',
    fine: true,
    said: /alive and no program/,
    first: /files/,
    text: ROM_32('0x1 (POWERON_RESET)') + BANNER('a chip of this class'),
  },
  {
    chip: '32-class',
    matter: 'button on 0 held',
    said: /waits to be written.*pin 0/,
    first: /button/,
    text: `ets Jul 29 2019 12:21:46\n\nrst:0x1 (POWERON_RESET),boot:0x3 (DOWNLOAD_BOOT(UART0/UART1/SDIO_REI_REO_V2))\nwaiting for download\n`,
  },
  {
    chip: '32-class',
    matter: '12 pulled up',
    said: /pin 12/,
    first: /12/,
    text: `rst:0x10 (RTCWDT_RTC_RESET),boot:0x33 (SPI_FAST_FLASH_BOOT)\nflash read err, 1000\nets_main.c 371 \nets Jul 29 2019 12:21:46\n`.repeat(
      3,
    ),
  },
  {
    chip: '32-class',
    matter: '12 pulled up, heard once',
    said: /pin 12/,
    first: /12/,
    text: `ets Jul 29 2019 12:21:46\n\nrst:0x1 (POWERON_RESET),boot:0x33 (SPI_FAST_FLASH_BOOT)\nflash read err, 1000\nets_main.c 371 \n`,
  },
  {
    chip: '32-class',
    matter: 'nothing written',
    said: /flash is empty/,
    first: /image/,
    text: `ets Jul 29 2019 12:21:46\n\nrst:0x1 (POWERON_RESET),boot:0x13 (SPI_FAST_FLASH_BOOT)\ninvalid header: 0xffffffff\ninvalid header: 0xffffffff\ninvalid header: 0xffffffff\n`,
  },
  {
    chip: '32-class',
    matter: 'written to 0x0 instead of 0x1000',
    said: /is no program/,
    first: /wrong address/,
    text: `ets Jul 29 2019 12:21:46\n\nrst:0x1 (POWERON_RESET),boot:0x13 (SPI_FAST_FLASH_BOOT)\ninvalid header: 0x4008ff2c\ninvalid header: 0x4008ff2c\n`,
  },
  {
    chip: '32-class',
    matter: 'image damaged',
    said: /damaged/,
    first: /again/,
    text: `ets Jul 29 2019 12:21:46\n\nrst:0x10 (RTCWDT_RTC_RESET),boot:0x13 (SPI_FAST_FLASH_BOOT)\nconfigsip: 0, SPIWP:0xee\nmode:DIO, clock div:2\nload:0x3fff0030,len:4892\ncsum err:0x9a!=0xff\nets_main.c 371 \n`,
  },
  {
    chip: '32-class',
    matter: 'program alone, no partition table',
    said: /damaged/,
    text: `${ROM_32('0x1 (POWERON_RESET)')}E (45) boot: No bootable app partitions in the partition table\n`,
  },
  {
    chip: '32-class',
    matter: 'thin cable',
    said: /supply fell/,
    first: /3\.3 V rail/,
    text: `${ROM_32('0x1 (POWERON_RESET)')}\nBrownout detector was triggered\n\n${ROM_32('0xc (SW_CPU_RESET)')}\nBrownout detector was triggered\n\n${ROM_32('0xc (SW_CPU_RESET)')}\nBrownout detector was triggered\n\n${ROM_32('0xc (SW_CPU_RESET)')}`,
  },
  {
    chip: '32-class',
    matter: 'brownout told by the ROM alone',
    said: /supply fell/,
    text: `${ROM_32('0x1 (POWERON_RESET)')}${ROM_32('0xf (RTCWDT_BROWN_OUT_RESET)')}`,
  },
  {
    chip: '32-class',
    matter: 'firmware crash',
    said: /crashed \(LoadProhibited\)/,
    text: `${ROM_32('0x1 (POWERON_RESET)')}Guru Meditation Error: Core  0 panic'ed (LoadProhibited). Exception was unhandled.\nCore  0 register dump:\nPC      : 0x400d1234  PS      : 0x00060930\nBacktrace: 0x400d1231:0x3ffb1f50\nRebooting...\n`,
  },
  { chip: '32-class', matter: 'task watchdog', said: /watchdog/, text: `${ROM_32('0x8 (TG1WDT_SYS_RESET)')}` },
  {
    chip: '32-class',
    matter: 'woke, and runs',
    fine: true,
    said: /It runs.*−58 dBm.*level/,
    text: `${ROM_32('0x5 (DEEPSLEEP_RESET)')}vn start woke\nvn file well-head 7\nvn drivers 2\nvn net 1001\nvn net 1010 -58 192.0.2.31\nvn broker 0\nvn first level\n`,
  },
  {
    chip: '32-class',
    matter: 'wrong password of the network',
    said: /refuses its password/,
    first: /password/,
    text: `${ROM_32('0x1 (POWERON_RESET)')}vn start power\nvn file well-head 7\nvn drivers 2\nvn net 1001\nvn net 202\nvn net 1001\nvn net 202\n`,
  },
  {
    chip: '32-class',
    matter: 'network away',
    said: /no network of that name/i,
    text: `vn start power\nvn file well-head 7\nvn net 1001\nvn net 201\n`,
  },
  {
    chip: '32-class',
    matter: 'first a beacon lost, then in service',
    fine: true,
    said: /It runs/,
    text: `vn start power\nvn file well-head 7\nvn net 200\nvn net 1001\nvn net 1010 -71 192.0.2.31\nvn broker 0\n`,
  },
  {
    chip: '32-class',
    matter: 'login wrong',
    said: /refuses name or password/,
    first: /login/i,
    text: `vn start power\nvn file well-head 7\nvn net 1010 -58 192.0.2.31\nvn broker 4\n`,
  },
  {
    chip: '32-class',
    matter: 'broker not reached',
    said: /no connection to the broker/i,
    first: /address/,
    text: `vn start power\nvn file well-head 7\nvn net 1010 -58 192.0.2.31\nvn broker -1\n`,
  },
  {
    chip: '32-class',
    matter: 'a probe without its wire',
    said: /driver of soil did not start/,
    text: `vn start power\nvn file well-head 7\nvn refused soil\nvn drivers 1\nvn net 1010 -58 192.0.2.31\nvn broker 0\n`,
  },
  {
    chip: 'c3-class',
    matter: 'power on',
    fine: true,
    said: /alive and no program/,
    text: ROM_C3('0x1 (POWERON)') + BANNER('ESP32C3'),
  },
  {
    chip: 'c3-class',
    matter: 'button on 9 held',
    said: /waits to be written.*pin 9/,
    text: `ESP-ROM:esp32c3-api1-20210207\nBuild:Feb  7 2021\nrst:0x1 (POWERON),boot:0x4 (DOWNLOAD(USB/UART0/1))\nwaiting for download\n`,
  },
  {
    chip: 'c3-class',
    matter: 'reset after writing over its own USB',
    fine: true,
    said: /alive/,
    text: ROM_C3('0x15 (USB_UART_CHIP_RESET)') + BANNER('ESP32C3'),
  },
  { chip: 'c3-class', matter: 'supply falls', said: /supply fell/, text: ROM_C3('0xf (BROWNOUT_RST)').repeat(4) },
  { chip: 'c3-class', matter: 'watchdog of the clock domain', said: /watchdog/, text: ROM_C3('0x9 (RTCWDT_SYS_RST)') },
  { chip: 'c3-class', matter: 'woke', fine: true, said: /starts/, text: ROM_C3('0x5 (DSLEEP)') },
  {
    chip: 's3-class',
    matter: 'empty',
    said: /flash is empty/,
    text: `ESP-ROM:esp32s3-20210327\nBuild:Mar 27 2021\nrst:0x1 (POWERON),boot:0x8 (SPI_FAST_FLASH_BOOT)\ninvalid header: 0xffffffff\ninvalid header: 0xffffffff\n`,
  },
  {
    chip: 's3-class',
    matter: 'button on 0 held',
    said: /pin 0 was low/,
    text: `ESP-ROM:esp32s3-20210327\nBuild:Mar 27 2021\nrst:0x1 (POWERON),boot:0x0 (DOWNLOAD(USB/UART0))\nwaiting for download\n`,
  },
  {
    chip: 's3-class',
    matter: 'restarted by its program',
    fine: true,
    said: /starts/,
    text: ROM_S3('0x3 (RTC_SW_SYS_RST)'),
  },
  {
    chip: 's3-class',
    matter: 'stack too small',
    said: /crashed/,
    text: `${ROM_S3('0x1 (POWERON)')}\n***ERROR*** A stack overflow in task mp_task has been detected.\n\n\nBacktrace: 0x40375a4e:0x3fc9f1b0\n`,
  },
  {
    chip: 's3-class',
    matter: 'a file is missing',
    said: /file is missing/,
    first: /install it again/,
    text: `${ROM_S3('0x1 (POWERON)')}${TRACE('OSError: [Errno 2] ENOENT')}${BANNER('ESP32S3')}`,
  },
  {
    chip: 'c6-class',
    matter: 'button on 9 held',
    said: /pin 9 was low/,
    text: `ESP-ROM:esp32c6-20220919\nBuild:Sep 19 2022\nrst:0x1 (POWERON),boot:0x4 (DOWNLOAD(USB/UART0/SDIO_FEI_FEO))\nwaiting for download\n`,
  },
  {
    chip: 'c6-class',
    matter: 'interpreter too old for the modules',
    said: /does not read these compiled modules/,
    text: `${ROM_C6('0x1 (POWERON)')}${TRACE('ValueError: incompatible .mpy file')}${BANNER('ESP32C6')}`,
  },
  {
    chip: 'c6-class',
    matter: 'module missing',
    said: /missing.*vn\.start/,
    text: `${ROM_C6('0x1 (POWERON)')}${TRACE("ImportError: no module named 'vn.start'")}${BANNER('ESP32C6')}`,
  },
  {
    chip: 'c6-class',
    matter: 'woke and in service',
    fine: true,
    said: /It runs/,
    text: `${ROM_C6('0x5 (DSLEEP)')}vn start woke\nvn file damp-cupboard 3\nvn drivers 1\nvn net 1010 -66 192.0.2.44\nvn broker 0\nvn first damp\n`,
  },
  {
    chip: '8266-class',
    matter: 'power on, heard at 115 200: the ROM’s lines are garbage',
    fine: true,
    said: /alive and no program/,
    text: `\u0001$\u001e\u00ff\u008f\u000c\u0010\u009c\u00e0l\u00e0\u0002\u00fb\u000e\n${BANNER('a chip of this class')}`,
  },
  { chip: '8266-class', matter: 'power on at 74 880', fine: true, said: /chip starts/, text: ROM_8266(1) },
  {
    chip: '8266-class',
    matter: '0 low',
    said: /pin 0 was low/,
    first: /button/,
    text: '\n ets Jan  8 2013,rst cause:1, boot mode:(1,6)\n\n',
  },
  {
    chip: '8266-class',
    matter: '15 high',
    said: /pin 15 was high/,
    text: '\n ets Jan  8 2013,rst cause:2, boot mode:(7,6)\n\nwaiting for host\n',
  },
  {
    chip: '8266-class',
    matter: '2 low',
    said: /pin 2 was low/,
    text: '\n ets Jan  8 2013,rst cause:2, boot mode:(2,6)\n\n',
  },
  {
    chip: '8266-class',
    matter: 'hardware watchdog over and over',
    said: /over and over.*watchdog/,
    text: ROM_8266(4).repeat(5),
  },
  { chip: '8266-class', matter: 'woke', fine: true, said: /chip starts/, text: ROM_8266(2) },
  {
    chip: '8266-class',
    matter: 'exception of its firmware',
    said: /crashed \(exception 9\)/,
    text: `${ROM_8266(2)}\nFatal exception 9(LoadStoreAlignmentCause):\nepc1=0x4000e190, epc2=0x00000000, epc3=0x00000000, excvaddr=0x00000003, depc=0x00000000\n`,
  },
  {
    chip: '8266-class',
    matter: 'image damaged',
    said: /damaged|no program/,
    text: '\n ets Jan  8 2013,rst cause:2, boot mode:(3,6)\n\nload 0x40100000, len 1856, room 16 \ntail 0\nchksum 0x63\ncsum 0x63\ncsum err\nets_main.c \n',
  },
  {
    chip: '8266-class',
    matter: 'memory',
    said: /memory ran out/i,
    first: /compiled/,
    text: `${TRACE('MemoryError: memory allocation failed, allocating 2040 bytes')}${BANNER('a chip of this class', '1.20.0')}`,
  },
  {
    chip: '8266-class',
    matter: 'wrong password',
    said: /refuses its password/,
    text: 'vn start power\nvn file gallery-door 9\nvn drivers 3\nvn net 1\nvn net 2\n',
  },
  {
    chip: '8266-class',
    matter: 'in service',
    fine: true,
    said: /It runs.*−63 dBm/,
    text: 'vn start reset\nvn file gallery-door 9\nvn drivers 3\nvn net 1\nvn net 5 -63 192.0.2.17\nvn broker 0\nvn first loop\n',
  },
  {
    chip: 'rp2040',
    matter: 'interpreter alone',
    fine: true,
    said: /alive and no program/,
    text: BANNER('RP2040', '1.23.0'),
  },
  {
    chip: 'rp2040',
    matter: 'wrong password',
    said: /refuses its password/,
    text: 'vn start power\nvn file yard-bridge 5\nvn drivers 2\nvn net 1\nvn net -3\n',
  },
  {
    chip: 'rp2040',
    matter: 'no such network',
    said: /no network of that name/i,
    text: 'vn start power\nvn file yard-bridge 5\nvn net -2\n',
  },
  {
    chip: 'rp2040',
    matter: 'syntax newer than the interpreter',
    said: /does not understand a file/,
    first: /older/,
    text: `${TRACE('SyntaxError: invalid syntax')}${BANNER('RP2040', '1.18.0')}`,
  },
  {
    chip: 'rp2040',
    matter: 'a part is not on the bus',
    said: /part did not answer/,
    text: `${TRACE('OSError: [Errno 5] EIO')}${BANNER('RP2040', '1.23.0')}`,
  },
  {
    chip: 'rp2040',
    matter: 'installation cut short',
    said: /held at its prompt/,
    first: /Install the bundle again/,
    text: `vn hold\n${BANNER('RP2040', '1.23.0')}`,
  },
]
