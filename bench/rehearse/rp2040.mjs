// SPDX-License-Identifier: MIT
// An emulated RP2040 behind a pipe: lines of commands come in, and events go out. Arguments: where
// the emulator's package is, the program as it lies in the flash, and which line it uses.
//
//   go CYCLE               runs up to there, or to the next event: "mark N", "pin N LEVEL", "drive N
//                          0|1", "at", each with the cycle, the cycles slept, and the stack's depth
//   put N 0|1, adc CHANNEL CODE, hear HEX, unplug, plug, watch N, watchdrive N, poke ADDRESS BYTE
//   peek ADDRESS COUNT     answers HEX          said       answers HEX
//   pin N                  answers "LEVEL DRIVES FUNCTION HIGH PERIOD DIVISOR" of its slice
//   flash FROM COUNT       answers HEX          cut N      power goes at the Nth write to the flash
//   reset                  power comes back     quit
import fs from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';

const [modules, image, line] = process.argv.slice(1);
const emulator = await import(
  pathToFileURL(path.join(modules, 'rp2040js/dist/esm/index.js')).href);

const megahertz = 48;
const flashBegins = 0x10000000, vectors = 0x10000100, stackTop = 0x20042000;
let mcu, cdc, core;
let events = [], said = [], heard = [];
let asleep = 0, lowest = stackTop, reading = null, plugged = true;
let writesLeft = -1, cut = false;
const watched = new Set(), driven = new Map(), inputs = new Map(), codes = [0, 0, 0, 0, 0];
const flash = new Uint8Array(2 * 1024 * 1024).fill(0xff);
flash.set(fs.readFileSync(image));

const cycle = () => Math.round(mcu.clock.nanos * megahertz / 1000) + begun;
let begun = 0;

// What the chip's own memory would hold: a table of functions, each of which is done here.
const functions = ['IF', 'EX', 'RE', 'RP', 'FC', 'CX'];
function putRom() {
  const rom = new DataView(mcu.bootrom.buffer);
  const code = (at, number) => {
    rom.setUint16(at, 0xbe00 | number, true); // bkpt
    rom.setUint16(at + 2, 0x4770, true); // bx lr
  };
  rom.setUint16(0x14, 0x80, true);
  rom.setUint16(0x18, 0x101, true);
  code(0x100, 100);
  functions.forEach((name, i) => code(0x110 + 4 * i, i));
}
function onBreak(number) {
  const [r0, r1, r2] = core.registers;
  if (number === 100) {
    const name = String.fromCharCode(r1 & 0xff, r1 >> 8 & 0xff);
    core.registers[0] = 0x111 + 4 * functions.indexOf(name);
    return;
  }
  const name = functions[number];
  if (name !== 'RE' && name !== 'RP')
    return;
  // The power may go in the middle of it: some of the bits are done then.
  const partly = writesLeft === 0;
  if (writesLeft >= 0)
    --writesLeft;
  const count = name === 'RE' ? r1 : r2;
  for (let i = 0; i < count; ++i) {
    if (partly && (i * 7919 % 16) < 8)
      continue;
    const byte = name === 'RE' ? 0xff : flash[r0 + i] & mcu.readUint8(r1 + i);
    flash[r0 + i] = partly && i % 3 === 0 ? flash[r0 + i] & (byte | 0x55) : byte;
    mcu.flash[r0 + i] = flash[r0 + i];
  }
  mcu.clock.tick(name === 'RE' ? 45e6 : 0.7e6);
  cut = cut || partly;
}

function start(reason) {
  const before = mcu === undefined ? 0 : cycle();
  mcu = new emulator.RP2040();
  begun = before;
  core = mcu.core;
  mcu.logger = { debug() {}, info() {}, warn() {}, error() {} };
  mcu.flash.set(flash);
  putRom();
  mcu.onBreak = onBreak;
  const guard = mcu.peripherals[0x40058];
  const write = guard.writeUint32.bind(guard);
  guard.writeUint32 = (offset, value) => {
    if (offset === 0x0c)
      events.push(`mark ${value}`);
    write(offset, value);
  };
  guard.reason = reason;
  guard.onWatchdogTrigger = () => { bitten = true; };
  for (let i = 0; i < 30; ++i)
    mcu.gpio[i].addListener(() => changed(i));
  core.VTOR = vectors;
  core.SP = mcu.readUint32(vectors);
  core.PC = mcu.readUint32(vectors + 4) & ~1;
  for (const [pin, level] of inputs)
    mcu.gpio[pin].setInputValue(level);
  codes.forEach((code, i) => { mcu.adc.channelValues[i] = code; });
  for (const uart of mcu.uart)
    uart.onByte = byte => said.push(byte);
  reading = null;
  plugged = true;
  if (line === 'usb')
    plug();
}
let bitten = false;

// The host's side of the plug. It asks for text only as far as there is some.
function plug() {
  const usb = mcu.usbCtrl;
  delete usb.DPRAMUpdated;
  delete usb.sendSetupPacket;
  cdc = new emulator.USBCDC(usb);
  cdc.onSerialData = bytes => said.push(...bytes);
  usb.onEndpointRead = (end, size) => {
    if (end === cdc.outEndpoint) {
      reading = size;
      give();
    }
  };
  // Packets must bear the numbers 0, 1, 0, 1 of their end, those of a request from 1 on; the
  // emulator does not look at them.
  const numbers = { 0x80: 1, 0x90: 0, 0x94: 0 };
  const updated = usb.DPRAMUpdated.bind(usb);
  usb.DPRAMUpdated = (offset, value) => {
    if ((value & 1 << 10) !== 0 && offset in numbers) {
      if ((value >> 13 & 1) !== numbers[offset])
        throw new Error(`a packet of ${offset.toString(16)} has the wrong number`);
      numbers[offset] ^= 1;
    }
    updated(offset, value);
  };
  const setup = usb.sendSetupPacket.bind(usb);
  usb.sendSetupPacket = packet => {
    numbers[0x80] = 1;
    if (packet[1] === 9)
      numbers[0x90] = numbers[0x94] = 0;
    setup(packet);
  };
  const toHost = usb.onEndpointWrite;
  usb.onEndpointWrite = (end, bytes) => { if (plugged) toHost(end, bytes); };
}
function give() {
  if (reading === null || heard.length === 0 || !plugged)
    return;
  const bytes = Uint8Array.from(heard.splice(0, Math.min(reading, 64)));
  reading = null;
  mcu.usbCtrl.endpointReadDone(cdc.outEndpoint, bytes);
}

function changed(pin) {
  const state = mcu.gpio[pin].value;
  if (watched.has(pin))
    events.push(`pin ${pin} ${state === 1 ? 1 : 0}`);
  const drives = state < 2;
  if (driven.has(pin) && driven.get(pin) !== drives) {
    driven.set(pin, drives);
    events.push(`drive ${pin} ${drives ? 1 : 0}`);
  }
}

function go(until) {
  while (events.length === 0 && cycle() < until && !cut) {
    if (bitten) {
      bitten = false;
      start(1);
      events.push('reset');
      break;
    }
    // It wakes by what is pending, whether it is let in or not.
    if (core.waiting && (core.pendingInterrupts & core.enabledInterrupts) !== 0)
      core.waiting = false;
    if (core.waiting) {
      const left = (until - cycle()) * 1000 / megahertz;
      const next = mcu.clock.nextAlarm === null ? left : mcu.clock.nanosToNextAlarm;
      const nanos = Math.max(Math.min(next, left), 1);
      mcu.clock.tick(nanos);
      asleep += nanos * megahertz / 1000;
    } else {
      const cycles = core.executeInstruction();
      mcu.clock.tick(cycles * 1e9 / mcu.clkSys);
      const stack = core.registers[13] >>> 0;
      if (stack < lowest && stack > 0x20000000)
        lowest = stack;
    }
  }
  const event = events.length > 0 ? events.shift() : 'at';
  return `${event} ${cycle()} ${Math.round(asleep)} ${stackTop - lowest}`;
}

function pin(number) {
  const is = mcu.gpio[number];
  const slice = mcu.pwm.channels[(number >> 1) & 7];
  const high = number & 1 ? slice.cc >>> 16 : slice.cc & 0xffff;
  return [is.value === 1 ? 1 : 0, is.value < 2 ? 1 : 0, is.functionSelect, high, slice.top + 1,
    slice.div / 16].join(' ');
}

const hex = bytes => Buffer.from(bytes).toString('hex');
function obey(words) {
  const [what, a, b] = words;
  switch (what) {
    case 'go': return go(Number(a));
    case 'put':
      inputs.set(Number(a), b === '1');
      mcu.gpio[Number(a)].setInputValue(b === '1');
      return;
    case 'adc':
      codes[Number(a)] = Number(b);
      mcu.adc.channelValues[Number(a)] = Number(b);
      return;
    case 'hear':
      for (const byte of Buffer.from(a, 'hex'))
        if (line === 'usb')
          heard.push(byte);
        else
          mcu.uart[line === 'serial1' ? 1 : 0].feedByte(byte);
      if (line === 'usb')
        give();
      return;
    case 'unplug': plugged = false; return;
    case 'plug':
      plugged = true;
      heard = [];
      reading = null;
      plug();
      mcu.usbCtrl.resetDevice();
      return;
    case 'watch': watched.add(Number(a)); return;
    case 'watchdrive': driven.set(Number(a), mcu.gpio[Number(a)].value < 2); return;
    case 'poke': mcu.sram[Number(a) - 0x20000000] = Number(b); return;
    case 'peek': return hex(mcu.sram.subarray(Number(a) - 0x20000000,
      Number(a) - 0x20000000 + Number(b)));
    case 'pin': return pin(Number(a));
    case 'flash': return hex(flash.subarray(Number(a), Number(a) + Number(b)));
    case 'cut': writesLeft = Number(a); return;
    case 'reset':
      writesLeft = -1;
      cut = false;
      events = [];
      start(0);
      return;
    case 'said': {
      const all = hex(said);
      said = [];
      return all;
    }
    case 'quit': process.exit(0);
  }
  return 'what?';
}

start(0);
const chunk = Buffer.alloc(65536);
let rest = '';
for (;;) {
  let count = 0;
  try {
    count = fs.readSync(0, chunk);
  } catch (error) {
    if (error.code === 'EAGAIN')
      continue;
    throw error;
  }
  if (count === 0)
    break;
  rest += chunk.toString('latin1', 0, count);
  const commands = rest.split('\n');
  rest = commands.pop();
  for (const command of commands) {
    const answer = obey(command.split(' '));
    if (answer !== undefined)
      fs.writeSync(1, answer + '\n');
  }
}
