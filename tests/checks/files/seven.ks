#version=DEVEL
# Larkmoor gate
install
text
skipx
firstboot --disabled
eula --agreed
url --url="http://192.0.2.10/el7/os/x86_64/"
repo --name="updates" --baseurl=http://192.0.2.10/el7/updates/x86_64/
lang en_GB.UTF-8 --addsupport=pt_PT.UTF-8
keyboard --vckeymap=uk --xlayouts='gb'
timezone Europe/London --isUtc --ntpservers=192.0.2.123,ntp.larkmoor.example
network --bootproto=static --device=em1 --ip=192.0.2.33 --netmask=255.255.255.0 --gateway=192.0.2.1 --nameserver=192.0.2.53,198.51.100.53 --noipv6 --onboot=yes --activate --hostname=lmr-gate-07.larkmoor.example
rootpw --iscrypted $6$larkmoor01$2sYv0Bz8mZr9T1mXq3b8k0Qz7m8t6jvJb2w4n1x5y7p9r3s5u7w9y1a3c5e7g9i1k3m5o7q9s1u3w5y7a9c1e.
auth --enableshadow --passalgo=sha512
selinux --enforcing
firewall --enabled --ssh --port=161:udp
services --enabled=chronyd,sshd --disabled=kdump
ignoredisk --only-use=sda
zerombr
clearpart --all --initlabel --drives=sda
bootloader --location=mbr --boot-drive=sda --append="crashkernel=auto rhgb quiet"
part /boot --fstype=xfs --size=1024 --ondisk=sda
part pv.01 --size=1 --grow --ondisk=sda
volgroup vg_lmr pv.01
logvol / --vgname=vg_lmr --name=root --fstype=xfs --size=20480
logvol /var --vgname=vg_lmr --name=var --fstype=xfs --size=10240 --grow
logvol swap --vgname=vg_lmr --name=swap --size=4096
user --name=observer --groups=wheel --iscrypted --password=$6$larkmoor02$2sYv0Bz8mZr9T1mXq3b8k0Qz7m8t6jvJb2w4n1x5y7p9r3s5u7w9y1a3c5e7g9i1k3m5o7q9s1u3w5y7a9c1e.
reboot --eject
%packages --ignoremissing
@^minimal
@core
chrony
vim-enhanced
-iwl*-firmware
%end
%addon com_redhat_kdump --disable --reserve-mb='auto'
%end
%post --log=/root/ks-post.log
#!/bin/bash
echo "Larkmoor station" > /etc/motd
systemctl enable chronyd
%end
